"""Tables of earlier results over HTTP. Each call brings the table along; nothing waits on the server."""

from pydantic import Field

from rulvek.api.asking import Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import Body
from rulvek.services import outside
from rulvek.services.views.outside import EarlierView, TableView

router = Calls("earlier results")


class TableIn(Body):
    """A CSV table with a heading."""

    file: str = Field(min_length=1, max_length=200)
    text: str = Field(max_length=5_000_000)


class MappedTableIn(TableIn):
    """A table and what each of its columns (counted from 0) is."""

    mapping: dict[int, outside.Field] = Field(min_length=1, max_length=100)
    instrument: str = Field("", max_length=120)
    accuracy_percent: float = Field(1.0, ge=0, le=50)
    whole: bool = Field(False, description="all of it or nothing")

    def table(self) -> outside.Table:
        """As the services know it."""
        return outside.Table(**self.model_dump())


@router.post("/earlier/columns")
def inspect_table(body: TableIn, use: Use) -> TableView:
    """What the columns of a table are likely to be."""
    return use.earlier_results.inspect(body.file, body.text)


@router.post("/earlier/rehearsal")
def rehearse_table(body: MappedTableIn, use: Use) -> EarlierView:
    """What would be kept of a table, and every row's problem; nothing is kept."""
    return use.earlier_results.rehearse(body.table())


@router.post("/earlier", status_code=201)
def keep_table(body: MappedTableIn, use: Use, person: Person) -> EarlierView:
    """Put the rows of a table on record that can be taken; all or nothing where that is asked for."""
    return use.earlier_results.keep(body.table(), person)
