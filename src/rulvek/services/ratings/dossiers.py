"""A rating's dossier: as a signed PDF that carries its basis, and checked again by whoever receives it."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rulvek.core.errors import BadInput, Conflict, Unreadable
from rulvek.core.ratings.basis import Basis, changed_figures
from rulvek.core.ratings.dossier import Dossier
from rulvek.core.ratings.life import Life, Step, StepKind, life_of
from rulvek.core.ratings.printed import printed_beside
from rulvek.core.ratings.texts import wording
from rulvek.core.ratings.unsettled import valid_until
from rulvek.core.records.actor import Actor
from rulvek.store import audit, load, ratings
from rulvek.store.engine import Database
from rulvek.store.formats.dossiers import write_dossier
from rulvek.store.queries import records as record_queries
from rulvek.store.ratings import Frozen

if TYPE_CHECKING:
    from rulvek.reports.signing import LabKey, Signature

BASIS_NAME, LIFE_NAME = "basis.json", "life.json"


@dataclass(frozen=True, slots=True)
class Checked:
    """What somebody found who looked at a dossier with nothing else at hand; ``faults`` has a sentence each."""

    wording: str
    signature: "Signature | None"
    digest: str
    basis: Basis
    faults: tuple[str, ...]


class RatingDossiers:
    """Writes them from what is on record.

    Args:
        folder: Where the lab's key lies.
        pack: Packs a model with all of its units as a bundle, for somebody; the file is the caller's.
    """

    def __init__(self, database: Database, folder: Path, lab: str, pack: Callable[[int, Actor], Path]) -> None:
        self._database, self._folder, self.lab, self._pack = database, folder, lab, pack

    @cached_property
    def _key(self) -> "LabKey":
        from rulvek.reports.signing import LabKey  # what signs takes long to load, and few starts need it

        return LabKey(self._folder, self.lab)

    @property
    def certificate(self) -> bytes:
        """What the lab signs with, as PEM: whoever receives a dossier compares it."""
        return self._key.certificate

    def unsigned(self, rating_id: int) -> bytes:
        """The report alone; the same records always give the same bytes.

        Raises:
            Conflict: a draft rests on nothing yet.
        """
        return _drawn(self._dossier(rating_id)[0])

    def signed(self, rating_id: int) -> bytes:
        """The report with its basis and its life attached, under the lab's signature.

        Raises:
            Conflict: a draft rests on nothing yet.
        """
        dossier, frozen = self._dossier(rating_id)
        return self._key.signed(_drawn(dossier), {BASIS_NAME: frozen.text.encode(), LIFE_NAME: _written(dossier.steps)})

    def with_records(self, rating_id: int, actor: Actor) -> Path:
        """The signed report and the records that it rests on, in one ZIP; the file is the caller's.

        Raises:
            Conflict: a draft rests on nothing yet; the records are more than a bundle takes.
        """
        pdf = self.signed(rating_id)
        with self._database.reading() as session:
            model_id = ratings.one(session, rating_id).model_id
        records = self._pack(model_id, actor)
        target = records.with_suffix(".dossier.zip")
        try:
            write_dossier(target, pdf, records)
        except BaseException:
            target.unlink(missing_ok=True)
            raise
        finally:
            records.unlink(missing_ok=True)
        return target

    def _dossier(self, rating_id: int) -> tuple[Dossier, Frozen]:
        with self._database.reading() as session:
            rating = ratings.one(session, rating_id)
            frozen = ratings.basis_of(session, rating)
            if frozen is None:
                raise Conflict("A draft rests on nothing yet: it has no dossier.", todo="Propose it.")
            basis, model = frozen.basis, load.model(session, rating.model_id)
            used = {name for one in basis.readings for name in one.instruments}
            register = {row.entry.full_name: row.entry for row in record_queries.register(session)}
            printed = printed_beside(basis.terms, model.claims, basis.reference_volts)
            dossier = Dossier(
                number=rating_id,
                lab=self.lab,
                wording=wording(basis.terms, model.product.group(basis.terms.at.group), basis.reference_volts),
                description=model.description,
                state=rating.life.state,
                steps=rating.life.steps,
                basis=basis,
                digest=frozen.digest,
                valid_until=valid_until(basis, rating.life),
                instruments=tuple(register[name] for name in sorted(used) if name in register),
                printed=tuple((one.claim.document, one.claim.stands_at or "", one.claim.each_watts) for one in printed),
                chain=audit.head(session),
            )
        return dossier, frozen


basis_schema = ratings.schema


def check_dossier(pdf: bytes, trusted: bytes | None = None) -> Checked:
    """Look at a dossier: its signature, what was signed for in its life, and its figures from its basis alone.

    Args:
        trusted: A certificate that is known to be the lab's, as PEM.

    Raises:
        BadInput: it is no dossier.
        Unreadable: what it carries cannot be understood.
    """
    from rulvek.reports.signing import attached_to, signature_of

    signature = signature_of(pdf, trusted)
    attached = {name: attached_to(pdf, name) for name in (BASIS_NAME, LIFE_NAME)}
    if attached[BASIS_NAME] is None or attached[LIFE_NAME] is None:
        raise BadInput("This PDF carries no basis: it is no dossier of a rating.", field="file")
    frozen = ratings.frozen_text((attached[BASIS_NAME] or b"").decode("utf-8", "replace"))
    life = _read(attached[LIFE_NAME] or b"")
    faults = [*_signature_faults(signature), *_life_faults(life, frozen), *_figure_faults(frozen.basis)]
    basis = frozen.basis
    return Checked(
        wording=f"{basis.model}, {basis.terms.watts:g} W, {life.state.value}",
        signature=signature,
        digest=frozen.digest,
        basis=basis,
        faults=tuple(faults),
    )


def _signature_faults(signature: "Signature | None") -> list[str]:
    if signature is None:
        return ["It is not signed."]
    faults = [] if signature.intact else ["It is not as it was signed: something was changed or added since."]
    if signature.trusted is False:
        faults.append("It is signed with another certificate than the one that is trusted.")
    return faults


def _life_faults(life: Life, frozen: Frozen) -> list[str]:
    about = (StepKind.PROPOSED, StepKind.SIGNED, StepKind.PUBLISHED)
    last = [step for kind in about if (step := life.last(kind)) is not None]
    return [f"What was {step.kind.value} is another basis." for step in last if step.digest != frozen.digest]


def _figure_faults(basis: Basis) -> list[str]:
    return [
        f"Worked out again, it comes to another {name.replace('_', ' ')} than it says."
        for name in changed_figures(basis)
    ]


def _drawn(dossier: Dossier) -> bytes:
    from rulvek.reports.dossier_pdf import dossier_pdf  # what draws pages takes long to load, and few starts need it

    return dossier_pdf(dossier)


def _written(steps: tuple[Step, ...]) -> bytes:
    rows = [
        {"number": one.number, "kind": one.kind.value, "by": one.by, "at": one.at.isoformat()}
        | {"reason": one.reason, "digest": one.digest, "settles": list(one.settles)}
        for one in steps
    ]
    return json.dumps(rows, ensure_ascii=False, indent=1).encode()


def _read(data: bytes) -> Life:
    try:
        rows: list[dict[str, Any]] = json.loads(data)
        return life_of(
            Step(
                number=row["number"],
                kind=StepKind(row["kind"]),
                by=row["by"],
                at=datetime.fromisoformat(row["at"]),
                reason=row["reason"],
                digest=row["digest"],
                settles=tuple(row["settles"]),
            )
            for row in rows
        )
    except (ValueError, KeyError, TypeError, Conflict) as failure:
        raise Unreadable("The life of the rating in this file cannot be understood.") from failure
