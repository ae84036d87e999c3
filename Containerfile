# Rulvek in a container: built in stages, run without root, with the records on a volume.
FROM docker.io/library/node:20-bookworm-slim AS front-end
WORKDIR /build/web
COPY web/package.json web/package-lock.json ./
RUN npm ci --no-progress
COPY web/ ./
RUN npx vite build --logLevel warn

FROM docker.io/library/python:3.11-slim-bookworm AS wheel
WORKDIR /build
COPY requirements/ requirements/
RUN pip wheel --no-cache-dir --require-hashes -w /wheels -r requirements/run.txt
RUN pip install --no-cache-dir --no-index --find-links /wheels setuptools
COPY pyproject.toml ./
COPY src/ src/
COPY --from=front-end /build/web/dist src/rulvek/web
RUN pip wheel --no-cache-dir --no-deps --no-build-isolation -w /wheels .

FROM docker.io/library/python:3.11-slim-bookworm
RUN apt-get update -qq \
 && apt-get install -y -qq --no-install-recommends libsndfile1 \
 && rm -rf /var/lib/apt/lists/* \
 && useradd --system --uid 10001 --home-dir /data rulvek \
 && install -d -o rulvek -g rulvek /data /backups
COPY --from=wheel /wheels /wheels
RUN pip install --no-cache-dir --no-index --find-links /wheels rulvek && rm -rf /wheels
ENV RULVEK_DATA_FOLDER=/data RULVEK_HOST=0.0.0.0 RULVEK_BACKUP_FOLDER=/backups RULVEK_LOG=json
VOLUME ["/data", "/backups"]
EXPOSE 8470
USER rulvek
HEALTHCHECK --interval=30s --timeout=5s --start-period=60s \
  CMD ["python", "-c", "import urllib.request; urllib.request.urlopen('http://localhost:8470/api/ready', timeout=4)"]
ENTRYPOINT ["rulvek"]
CMD ["serve"]
