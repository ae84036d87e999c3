"""What the commands share: the application, one clear sentence for every error, the settings."""

import sys
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import typer

from rulvek.core.errors import BadInput, RulvekError

if TYPE_CHECKING:
    from rulvek.settings import Settings

app = typer.Typer(
    help="Plans, conducts, measures and judges amplifier power tests, and keeps the evidence.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)
Command = TypeVar("Command", bound=Callable[..., Any])
BAD_INPUT_EXIT = 2


@app.callback()
def quiet() -> None:
    """Plans, conducts, measures and judges amplifier power tests, and keeps the evidence."""
    from rulvek import logs

    logs.configure(least="warning")  # what a command prints is its answer; a server says more


def clear_errors(command: Command) -> Command:
    """End with one clear sentence on standard error and exit code 2, never a traceback."""

    @wraps(command)
    def run(*args: Any, **kwargs: Any) -> Any:
        try:
            return command(*args, **kwargs)
        except RulvekError as error:
            typer.echo(f"{error.what} {error.todo}".strip(), err=True)
            raise typer.Exit(BAD_INPUT_EXIT) from None

    return run  # type: ignore[return-value]  # same signature, kept by wraps for Typer


def text_of(file: Path) -> str:
    """What stands in a text file, or in standard input for ``-``.

    Raises:
        BadInput: it cannot be read, or is no text.
    """
    try:
        return sys.stdin.read() if str(file) == "-" else file.read_text(encoding="utf-8")
    except OSError as error:
        raise BadInput(f"{file} cannot be read: {error.strerror}.", field="file") from None
    except UnicodeDecodeError:
        raise BadInput(f"{file} is no text in UTF-8.", field="file") from None


def settings_from(**given: Any) -> "Settings":
    """Settings from ``RULVEK_…`` variables, and from what is given here.

    Raises:
        BadInput: a variable that cannot be used.
    """
    from pydantic import ValidationError

    from rulvek.settings import Settings

    try:
        return Settings(**{key: value for key, value in given.items() if value is not None})
    except ValidationError as error:
        first = error.errors()[0]
        name = "RULVEK_" + "_".join(str(part) for part in first["loc"]).upper()
        raise BadInput(f"{name}: {first['msg']}.", field=name) from None


def with_records(data: Path | None) -> "Settings":
    """The same, of a folder that has records.

    Raises:
        BadInput: it has none.
    """
    settings = settings_from(data_folder=data)
    if settings.database_file is not None and not settings.database_file.is_file():
        raise BadInput(f"There are no records in {settings.data_folder}.", field="data")
    return settings
