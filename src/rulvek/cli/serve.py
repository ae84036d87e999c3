"""``rulvek serve``: the application over HTTP."""

import errno
import gc
import socket
from pathlib import Path
from threading import Thread
from types import FrameType
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors, settings_from
from rulvek.core.errors import BadInput
from rulvek.core.records.actor import PROGRAM


@app.command()
@clear_errors
def serve(
    host: Annotated[str | None, typer.Option(help="Address to listen on.")] = None,
    port: Annotated[int | None, typer.Option(help="Port to listen on.", min=1, max=65535)] = None,
    data: Annotated[Path | None, typer.Option(help="Folder of the records and captures.")] = None,
    demo: Annotated[bool, typer.Option("--demo", help="Conduct the demo beside, if nothing is on record.")] = False,
) -> None:
    """Serve the application; settings come from RULVEK_… variables unless given here.

    Nothing on record is touched before the port is had: whoever has it may be in the middle of a run.
    """
    gc.set_threshold(100_000)  # what is loaded until it is set up is never garbage, and to look through it takes long
    import uvicorn

    from rulvek import logs
    from rulvek.api.app import create_app
    from rulvek.api.patience import PatientProtocol
    from rulvek.composition import answer_promptly

    settings = settings_from(host=host, port=port, data_folder=data)
    logs.configure(settings.log)
    listening = _bound(settings.host, settings.port)
    application = create_app(settings)
    if demo:
        from rulvek.demo.beside import demo_beside

        demo_beside(application.state.services, settings.data_folder)
    typer.echo(f"Rulvek is at http://{settings.host}:{settings.port} – open it in a browser; Ctrl+C ends it.")
    if code := application.state.services.sessions.first_code():
        typer.echo(f"Nobody has an account yet. The first is made there with this one-time code: {code}")
    answer_promptly()
    config = uvicorn.Config(
        application, http=PatientProtocol, log_level="warning", timeout_graceful_shutdown=2, server_header=False
    )
    services = application.state.services

    class _Server(uvicorn.Server):
        async def startup(self, sockets: list[socket.socket] | None = None) -> None:
            await super().startup(sockets)
            services.look_ahead()

        def handle_exit(self, sig: int, frame: FrameType | None) -> None:
            # Before anything else: those who still watch are waited for, a powered bench must not be.
            Thread(target=services.benches.off, args=(PROGRAM,), name="off").start()
            super().handle_exit(sig, frame)

    _Server(config).run(sockets=[listening])


def _bound(host: str, port: int) -> socket.socket:
    """Take a port.

    Raises:
        BadInput: it is taken, or cannot be had here.
    """
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listening = socket.socket(family)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((host, port))
    except OSError as failure:
        listening.close()
        why = "is taken" if failure.errno == errno.EADDRINUSE else f"cannot be had: {failure.strerror}"
        todo = "End what listens there, or choose another one with --port."
        raise BadInput(f"Port {port} of {host} {why}.", todo=todo, field="port") from None
    listening.set_inheritable(True)
    return listening
