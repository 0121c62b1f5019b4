"""Lists the licence of everything Rezept is installed and built with: `make licences`."""

from __future__ import annotations

import json
import re
from importlib import metadata
from pathlib import Path

ROOT = Path(__file__).parents[1]
TARGET = ROOT / "docs" / "licences.md"
# What some packages say only in the text of their licence.
SAID_IN_THEIR_TEXT = {"Hershey-Fonts": "MIT (code), free to use with the notice of its data (fonts)"}
HEAD = """# Licences

What Rezept is installed with, from `requirements.lock` and `web/package-lock.json`; tools that only build or test it
are left out. Made by `make licences`. Rezept itself is under the [MIT licence](../LICENSE). The list of secrets
nobody may choose (`src/rezept/actions/commands/weakest_secrets.txt`) is taken from the word lists of zxcvbn (MIT).
Letters that are filled are those of Barlow Medium (`src/rezept/core/path/fonts`, SIL Open Font Licence 1.1, its text
beside it).

"""


def locked(file: str) -> list[tuple[str, str]]:
    """Names and versions a lock file asks for."""
    return re.findall(r"^([A-Za-z0-9_.-]+)==([^ ;\\]+)", (ROOT / file).read_text(), flags=re.MULTILINE)


def _licence(name: str) -> str:
    try:
        about = metadata.metadata(name)
    except metadata.PackageNotFoundError:
        return "only on other systems"
    said = about.get("License-Expression") or ""
    classified = [one.rsplit(" :: ", 1)[1] for one in about.get_all("Classifier") or [] if one.startswith("License ::")]
    licence = " ".join((said or about.get("License") or "").split())
    if not licence or len(licence) > 80:
        licence = ", ".join(one for one in classified if one != "OSI Approved")
    return licence or SAID_IN_THEIR_TEXT.get(name) or SAID_IN_THEIR_TEXT[name.replace("-", "_")]


def _texts(name: str) -> str:
    """The licence files that lie in the package itself: those of what it brings along stand there."""
    try:
        files = metadata.files(name) or []
    except metadata.PackageNotFoundError:
        return ""
    names = sorted(
        {file.name for file in files if re.match(r"(LICEN[CS]E|COPYING|NOTICE|AUTHORS)(?!.*\.py$)", file.name, re.I)}
    )
    return ", ".join(names[:6]) + (" ..." if len(names) > 6 else "")


def web_packages() -> list[tuple[str, str, str]]:
    """Name, version and licence of what is built into the web app."""
    lock = json.loads((ROOT / "web/package-lock.json").read_text())
    return sorted(
        (path.rpartition("node_modules/")[2], about["version"], about.get("license", ""))
        for path, about in lock["packages"].items()
        if path and not about.get("dev") and not about.get("optional")
    )


def document() -> str:
    lines = [HEAD, "## On the server\n\n", "| package | version | licence | its texts |\n|---|---|---|---|\n"]
    lines += [
        f"| {name} | {version} | {_licence(name)} | {_texts(name)} |\n" for name, version in locked("requirements.lock")
    ]
    lines += ["\n## In the browser\n\n", "| package | version | licence |\n|---|---|---|\n"]
    lines += [f"| {name} | {version} | {licence} |\n" for name, version, licence in web_packages()]
    return "".join(lines)


if __name__ == "__main__":
    TARGET.write_text(document(), "utf-8")
