"""Print the OpenAPI description, from which the front end's types are generated: ``python -m rulvek.api.schema``."""

import json
import math
from pathlib import Path

from rulvek.api.app import app_for
from rulvek.composition import make_services
from rulvek.store.engine import Database


def schema() -> str:
    """The description as it is kept in ``docs/openapi.json``."""
    services = make_services(Database("sqlite://"), Path(), math.inf)
    return json.dumps(app_for(services).openapi(), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    print(schema(), end="")
