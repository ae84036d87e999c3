"""``rulvek settings``: every setting, its value, and where that comes from."""

import os

import typer

from rulvek.cli.common import app, clear_errors


@app.command()
@clear_errors
def settings() -> None:
    """Print every setting with its value, where it comes from, and what it is for."""
    from rulvek.settings import Settings

    prefix = Settings.model_config["env_prefix"]
    values = Settings()
    for name, field in Settings.model_fields.items():
        variable = f"{prefix}{name}".upper()
        source = "from the environment" if variable in os.environ else "default"
        typer.echo(f"{variable} = {getattr(values, name)}  ({source})")
        typer.echo(f"    {field.description}")
