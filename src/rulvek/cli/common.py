"""What the commands share: the application, one clear sentence for every error, the settings."""

from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

import typer

from rulvek import logs
from rulvek.core.errors import BadInput, RulvekError
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


def settings_from(**given: Any) -> Settings:
    """Settings from ``RULVEK_…`` variables, and from what is given here.

    Raises:
        BadInput: a variable that cannot be used.
    """
    from pydantic import ValidationError

    try:
        return Settings(**{key: value for key, value in given.items() if value is not None})
    except ValidationError as error:
        first = error.errors()[0]
        name = "RULVEK_" + "_".join(str(part) for part in first["loc"]).upper()
        raise BadInput(f"{name}: {first['msg']}.", field=name) from None
