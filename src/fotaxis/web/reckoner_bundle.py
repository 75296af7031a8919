"""What a browser needs to reckon without the server: the reckoner's modules as one archive, and everything its page is made of."""

from __future__ import annotations

import ast
import hashlib
import io
import zipfile
from functools import lru_cache
from importlib.util import find_spec
from pathlib import Path

from fotaxis.web import links
from fotaxis.web.responses import STATIC, static_url

ENTRY = "fotaxis.core.reckoner.asked"
PYTHON = "vendor/pyodide-314.0.7"
PYTHON_FILES = ("pyodide.mjs", "pyodide.asm.mjs", "pyodide.asm.wasm", "python_stdlib.zip", "pyodide-lock.json")
MADE_AT = (2000, 1, 1, 0, 0, 0)
"""One and the same archive for the same modules."""


def modules(entry: str = ENTRY) -> dict[str, Path]:
    """The modules of this package that an entry imports, itself and the packages they lie in too, by name."""
    found: dict[str, Path] = {}
    left = [entry]
    while left:
        name = left.pop()
        if name in found:
            continue
        path = _file_of(name)
        if path is None:
            continue
        found[name] = path
        left += [name.rpartition(".")[0]] if "." in name else []
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("fotaxis"):
                left += [node.module, *(f"{node.module}.{one.name}" for one in node.names)]
    return found


def _file_of(name: str) -> Path | None:
    try:
        spec = find_spec(name)
    except ModuleNotFoundError:
        return None
    return Path(spec.origin) if spec and spec.origin else None


@lru_cache(maxsize=1)
def archive() -> bytes:
    """The modules as a zip to be unpacked where Python looks for them."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, path in sorted(modules().items()):
            inside = name.replace(".", "/") + ("/__init__.py" if path.name == "__init__.py" else ".py")
            packed.writestr(zipfile.ZipInfo(inside, MADE_AT), path.read_bytes(), zipfile.ZIP_DEFLATED)
    return out.getvalue()


@lru_cache(maxsize=1)
def archive_address() -> str:
    """Where the archive is had, with its content's mark."""
    return f"{links.RECKONER_CORE}?v={hashlib.sha256(archive()).hexdigest()[:10]}"


@lru_cache(maxsize=1)
def page_parts() -> tuple[str, ...]:
    """Addresses of all that the page needs, as the page asks for them."""
    scripts = sorted(path.relative_to(STATIC).as_posix() for path in (STATIC / "js" / "reckoner").glob("*.js"))
    shared = ["js/dom.js", "js/api.js", "js/saving.js"]
    plain = [f"/static/{name}" for name in (*scripts, *shared, "fonts/inter-latin-wght-normal.woff2")]
    python = [f"/static/{PYTHON}/{name}" for name in PYTHON_FILES]
    marked = [static_url(name) for name in ("app.css", "icon.svg", "js/theme.js", "js/reckoner/page.js")]
    return (*plain, *marked, *python, links.RECKONER_COMPUTE, archive_address())


@lru_cache(maxsize=1)
def version() -> str:
    """A mark of all that the page is made of: another one means that browsers fetch it anew."""
    mark = hashlib.sha256(archive())
    for name in sorted({part.split("?")[0] for part in page_parts() if part.startswith("/static/")}):
        mark.update((STATIC / name.removeprefix("/static/")).read_bytes())
    for name in ("base.html", "reckoner.html", "reckoner/panel.html"):
        mark.update((Path(__file__).parent / "templates" / name).read_bytes())
    return mark.hexdigest()[:12]
