"""The signed list of what ships: complete, and a change of it is noticed."""

import json
import re
from pathlib import Path

from bench import sbom


def test_the_list_names_everything_that_ships_and_its_signature_holds(tmp_path):
    file = sbom.write(tmp_path)
    listed = {(c["name"].lower(), c["version"]) for c in json.loads(file.read_bytes())["components"]}
    lock = (Path(sbom.ROOT) / "requirements" / "app.lock").read_text()
    for name, version in re.findall(r"^([a-zA-Z0-9_.-]+)==([^ \\;]+)", lock, re.M):
        assert (name.lower(), version) in listed
    assert {"htmx.org", "@alpinejs/csp"} <= {name for name, _ in listed}
    assert sbom.verify(file)
    file.write_bytes(file.read_bytes().replace(b'"numba"', b'"numbb"'))
    assert not sbom.verify(file)
