"""Requests nobody should send: a generator of our own, the same every time.

It knows the routes of the OpenAPI document and nothing of how they are answered. Each request is a method, a path with
its query, headers and a body.
"""

from __future__ import annotations

import json
import random
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import quote

DOCUMENT = Path(__file__).parents[1] / "web/src/api/openapi.json"
# Without an end, and what takes away what the others are tried on.
LEFT_OUT = ("/api/changes/stream", "/api/door/clear-demo")

NUMBERS: tuple[Any, ...] = (
    0, -0.0, -1, 1, 0.5, 1e-300, 1e308, -1e308, 2**31, 2**53, 2**63 - 1, 2**63, -(2**63) - 1, 10**30, 1e22, 3.0000001,
)  # fmt: skip
TEXTS: tuple[str, ...] = (
    "", " ", "\x00", "\ud800", "\udfff\ud800", "\uffff", "\ufffe", "\u202e", "\u200b", "a" * 300, "x" * 70_000,
    "🜲" * 50,
    "'; DROP TABLE trial; --", "<script>alert(1)</script>", "%s%n%x", "{{7*7}}", "../../etc/passwd", "..%2f..%2f",
    "\r\nX: y",
    "REZEPT:7K3Q-T1234567890123456789012.1", "7K3Q-T0000000000000000000001.1", "T-9999999999999999999999",
    "\\", '"', "NaN",
    "Infinity", "-0", "1e999", "0x10", "١٢٣", "1,700", "½", "null", "true",
)  # fmt: skip
THINGS: tuple[Any, ...] = (
    None,
    True,
    False,
    [],
    {},
    [[]],
    {"": {}},
    [None] * 50,
    {"a": [{"b": []}]},
    [1, "2", None, {}],
)
KEYS = ("", "id", "edit", "facts", "design", "axes", "\ud800", "k" * 2_000, "__proto__", "name", "x", "constructor")
PATHS = (
    "/%2e%2e/%2e%2e/etc/passwd", "/..%2f..%2fapp.py", "/assets/..%5c..%5capp.py", "/" + "a" * 6_000, "/%00", "/%ff%fe",
    "/api/photos/..%2F..%2Frezept.sqlite3", "/api/trials/00000000000000000001", "/api/trials/" + "9" * 400,
    "/api/trials/-1", "/api/trials/1.5", "/api/burns/1/patches/" + "A" * 3_000 + "/reading", "/api//trials", "/api/",
    "/api/trials/1/revisions/99999999999999999999/files/svg",
    "/api/trials/1/revisions/1/files/" + quote("\ud800", errors="surrogatepass"),
)  # fmt: skip


@dataclass(frozen=True)
class Request:
    method: str
    url: str
    headers: dict[str, str] = field(default_factory=dict)
    body: bytes | None = None


def anything(chance: random.Random, depth: int = 0) -> Any:
    """A JSON value: often a hostile one, sometimes a small heap of them."""
    pick = chance.random()
    if pick < 0.35:
        return chance.choice(NUMBERS)
    if pick < 0.7:
        return chance.choice(TEXTS)
    if pick < 0.85 or depth > 2:
        return chance.choice(THINGS)
    if pick < 0.93:
        return [anything(chance, depth + 1) for _ in range(chance.randint(1, 6))]
    return {chance.choice(KEYS): anything(chance, depth + 1) for _ in range(chance.randint(1, 6))}


def _like(schema: dict[str, Any], schemas: dict[str, Any], chance: random.Random, depth: int = 0) -> Any:
    """Nearly what a schema asks for: right in its shape, with something wrong here and there."""
    if chance.random() < 0.12 or depth > 5:
        return anything(chance)
    if "$ref" in schema:
        return _like(schemas[schema["$ref"].rsplit("/", 1)[1]], schemas, chance, depth + 1)
    for one in ("anyOf", "oneOf", "allOf"):
        if one in schema:
            return _like(chance.choice(schema[one]), schemas, chance, depth + 1)
    if "enum" in schema:
        return chance.choice(schema["enum"])
    if "const" in schema:
        return schema["const"]
    kind = schema.get("type")
    if kind == "object":
        properties = schema.get("properties", {})
        made = {
            key: _like(inner, schemas, chance, depth + 1) for key, inner in properties.items() if chance.random() < 0.85
        }
        if chance.random() < 0.1 or not properties:
            made[chance.choice(KEYS)] = anything(chance)
        return made
    if kind == "array":
        return [_like(schema.get("items", {}), schemas, chance, depth + 1) for _ in range(chance.randint(0, 3))]
    if kind == "integer":
        return chance.choice((0, 1, 2, 3, 7, *NUMBERS)) if chance.random() < 0.4 else chance.randint(0, 12)
    if kind == "number":
        return chance.choice((0, 1, 12.5, 40, *NUMBERS))
    if kind == "string":
        return chance.choice(("Kay", "cut", "A1", "mm/s", "20", *TEXTS))
    if kind == "boolean":
        return chance.random() < 0.5
    return anything(chance)


def _text(value: Any) -> bytes:
    """JSON as a careless client writes it: NaN, lone surrogates and all."""
    return json.dumps(value, ensure_ascii=True).encode()


def _broken(chance: random.Random) -> bytes:
    return chance.choice(
        (
            b"", b"{", b"[" * 5000, b'{"a":' * 5000, b"\xff\xfe", b"nul", b'{"a": NaN}', b'{"a": 1e999}',
            b'{"edit": -0.0}', b'{"a": 1, "a": 2}', b'{"' + b"k" * 200_000 + b'": 1}', b'"\\ud800"', b"[]", b"1",
            b'"x"', b"null", b"\xef\xbb\xbf{}",
            b'{"a": ' + b"9" * 5000 + b"}", b'{"name": "\\ud800", "edit": 1}',
        )
    )  # fmt: skip


def requests(seed: int, count: int) -> Iterator[Request]:
    """`count` requests, the same for the same seed."""
    chance = random.Random(seed)
    document = json.loads(DOCUMENT.read_text())
    schemas = document["components"]["schemas"]
    routes = [
        (method.upper(), path, about)
        for path, methods in sorted(document["paths"].items())
        for method, about in sorted(methods.items())
        if path not in LEFT_OUT
    ]
    for _ in range(count):
        if chance.random() < 0.08:
            yield Request(
                chance.choice(("GET", "POST", "DELETE", "PUT", "OPTIONS", "HEAD", "PATCH")), chance.choice(PATHS)
            )
            continue
        method, path, about = chance.choice(routes)
        for one in about.get("parameters", ()):
            if one["in"] == "path":
                # Mostly what is there: beyond the door is where it gets interesting.
                right = {"face": "front", "kind": "svg", "patch": "A1", "sha256": "0" * 64}.get(
                    one["name"], str(chance.randint(1, 14))
                )
                wrong = quote(str(chance.choice((*NUMBERS, *TEXTS)))[:3000], safe="", errors="surrogatepass")
                path = path.replace("{" + one["name"] + "}", right if chance.random() < 0.75 else wrong or "0")
        asked = []
        for one in about.get("parameters", ()):
            if one["in"] == "query" and chance.random() < 0.8:
                value = str(_like(one.get("schema", {}), schemas, chance))[:2000]
                asked.append(f"{quote(one['name'])}={quote(value, errors='surrogatepass')}")
        headers = {"Content-Type": "application/json"}
        body = None
        content = about.get("requestBody", {}).get("content", {})
        if method in ("POST", "PUT", "PATCH"):
            schema = content.get("application/json", {}).get("schema")
            if chance.random() < 0.15:
                body = _broken(chance)
            elif schema is not None:
                body = _text(_like(schema, schemas, chance))
            else:
                headers["Content-Type"] = chance.choice(
                    ("image/jpeg", "image/png", "image/heic", "text/plain", "application/json")
                )
                body = (
                    chance.randbytes(chance.randint(0, 400))
                    if chance.random() < 0.5
                    else b"\xff\xd8\xff" + chance.randbytes(200)
                )
        if chance.random() < 0.05:
            headers["Content-Type"] = chance.choice(
                ("", "text/html", "application/json; charset=utf-16", "multipart/form-data")
            )
        yield Request(method, path + ("?" + "&".join(asked) if asked else ""), headers, body)


def mutated(chance: random.Random, document: Any) -> Any:
    """A good document with one thing in it that is not: a value, a key, a list where an object belongs."""
    places = dict(_places(document))
    target = chance.choice(list(places))
    before, pick = places[target], chance.random()
    if pick < 0.1:
        return _with(document, target, {chance.choice(KEYS): 1})
    # Of its own kind it gets furthest.
    alike = TEXTS if isinstance(before, str) else NUMBERS if isinstance(before, int | float) else ()
    return _with(document, target, chance.choice(alike) if alike and pick < 0.8 else anything(chance))


def _places(value: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[tuple[Any, ...], Any]]:
    yield at, value
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, one in inner:
        yield from _places(one, (*at, key))


def _with(value: Any, at: tuple[Any, ...], new: Any) -> Any:
    if not at:
        return new
    if isinstance(value, dict):
        return {key: _with(one, at[1:], new) if key == at[0] else one for key, one in value.items()}
    return [_with(one, at[1:], new) if i == at[0] else one for i, one in enumerate(value)]
