"""Printing the OpenAPI document: `python -m rezept.server.openapi > web/src/api/openapi.json`."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

from rezept.actions.open_shop import open_shop
from rezept.server.app import create_app


def document() -> str:
    """The document as text, always the same for the same code."""
    with tempfile.TemporaryDirectory() as folder:
        shop = open_shop(Path(folder))
        try:
            return json.dumps(create_app(shop).api_doc, indent=1, sort_keys=True) + "\n"
        finally:
            shop.close()


if __name__ == "__main__":
    sys.stdout.write(document())
