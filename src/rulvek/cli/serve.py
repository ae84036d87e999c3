"""``rulvek serve``: the application over HTTP."""

from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors, settings_from


@app.command()
@clear_errors
def serve(
    host: Annotated[str | None, typer.Option(help="Address to listen on.")] = None,
    port: Annotated[int | None, typer.Option(help="Port to listen on.", min=1, max=65535)] = None,
    data: Annotated[Path | None, typer.Option(help="Folder of the records and captures.")] = None,
) -> None:
    """Serve the application; settings come from RULVEK_… variables unless given here."""
    import uvicorn

    from rulvek import logs
    from rulvek.api.app import create_app
    from rulvek.composition import answer_promptly

    settings = settings_from(host=host, port=port, data_folder=data)
    logs.configure(settings.log)
    application = create_app(settings)
    typer.echo(f"Rulvek is at http://{settings.host}:{settings.port} – open it in a browser; Ctrl+C ends it.")
    if code := application.state.services.sessions.first_code():
        typer.echo(f"Nobody has an account yet. The first is made there with this one-time code: {code}")
    answer_promptly()
    uvicorn.run(application, host=settings.host, port=settings.port, log_level="warning", timeout_graceful_shutdown=2)
