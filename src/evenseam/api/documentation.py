"""The API's description as one plain page: nothing is fetched from anywhere for it."""

from html import escape
from typing import Any

_PAGE = """<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Even Seam: the API</title><style>
body {{ font: 15px/1.5 sans-serif; max-width: 60em; margin: 2em auto; padding: 0 1em; color: #23262a; background: #f2ede3 }}
code {{ background: #fbf8f1; padding: 0 .3em }} h2 {{ margin-top: 2em }} p {{ margin: .2em 0 .8em }}
</style></head><body><h1>The API of Even Seam {version}</h1>
<p>All of it, with every field, for programs: <a href="/api/openapi.json">openapi.json</a>.</p>{body}</body></html>"""


def documentation(described: dict[str, Any]) -> str:
    """An OpenAPI description as HTML: every operation by its tag, with what it takes and gives."""
    by_tag: dict[str, list[str]] = {}
    for path, operations in described["paths"].items():
        for method, operation in operations.items():
            by_tag.setdefault((operation.get("tags") or ["other"])[0], []).append(_operation(method, path, operation))
    body = "".join(f"<h2>{escape(tag)}</h2>{''.join(rows)}" for tag, rows in sorted(by_tag.items()))
    return _PAGE.format(version=escape(described["info"]["version"]), body=body)


def _operation(method: str, path: str, operation: dict[str, Any]) -> str:
    words = escape(operation.get("description") or operation.get("summary") or "").replace("\n\n", "<br>")
    given = ", ".join(escape(p["name"]) for p in operation.get("parameters", ()))
    takes = f" Takes <code>{given}</code>." if given else ""
    body = operation.get("requestBody", {}).get("content", {})
    named = ", ".join(escape(_name(c.get("schema", {}))) for c in body.values())
    sends = f" Body: <code>{named}</code>." if named else ""
    return f"<p><code>{escape(method.upper())} {escape(path)}</code><br>{words}{takes}{sends}</p>"


def _name(schema: dict[str, Any]) -> str:
    if "$ref" in schema:
        return str(schema["$ref"]).rpartition("/")[2]
    return " | ".join(_name(s) for s in schema.get("oneOf", schema.get("anyOf", ()))) or str(schema.get("type", "file"))
