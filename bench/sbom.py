"""`./run sbom`: a signed list of everything that ships: Python packages by cyclonedx, and what lies in static/vendor.

Writes fotaxis.cdx.json (CycloneDX 1.6), its Ed25519 signature (.sig, base64) and the public key (.pub). The key is made once and
kept in the same folder, or named by FOTAXIS_SIGNING_KEY. `--verify` checks a list against its signature.
"""

from __future__ import annotations

import argparse
import base64
import hashlib
import json
import os
import subprocess
import sys
from pathlib import Path

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey

ROOT = Path(__file__).resolve().parent.parent
VENDORED = ROOT / "src/fotaxis/web/static/vendor/vendored.json"
"""What of npm packages is part of the application, with the hash of each file."""


def made() -> bytes:
    """The list as JSON."""
    lock = ROOT / "requirements" / "app.lock"
    command = [
        sys.executable,
        "-m",
        "cyclonedx_py",
        "requirements",
        str(lock),
        "--of",
        "JSON",
        "--sv",
        "1.6",
        "--output-reproducible",
    ]
    listed = json.loads(subprocess.run(command, capture_output=True, check=True).stdout)
    for about in json.loads(VENDORED.read_text()):
        name, version = about["name"], about["version"]
        found = hashlib.sha256((VENDORED.parent.parent / about["file"]).read_bytes()).hexdigest()
        if found != about["sha256"]:
            raise SystemExit(f"{about['file']} is not the file that {VENDORED.name} tells of.")
        listed["components"].append(
            {
                "type": "library", "bom-ref": f"npm-{name}-{Path(about['file']).name}", "name": name, "version": version,
                "purl": f"pkg:npm/{name.replace('@', '%40')}@{version}", "licenses": [{"license": {"id": about["licence"]}}],
                "hashes": [{"alg": "SHA-256", "content": found}],
            }
        )  # fmt: skip
    return (json.dumps(listed, indent=1, sort_keys=True) + "\n").encode()


def key_in(folder: Path) -> Ed25519PrivateKey:
    """The signing key: the one that is named, else the folder's own, made when there is none."""
    told = os.environ.get("FOTAXIS_SIGNING_KEY")
    file = Path(told) if told else folder / "signing-key.pem"
    if not file.exists():
        key = Ed25519PrivateKey.generate()
        file.write_bytes(
            key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
        )
        file.chmod(0o600)
    found = serialization.load_pem_private_key(file.read_bytes(), None)
    assert isinstance(found, Ed25519PrivateKey), f"{file} holds no Ed25519 key"
    return found


def write(folder: Path) -> Path:
    """Make and sign the list; where it is."""
    folder.mkdir(parents=True, exist_ok=True)
    file, data, key = folder / "fotaxis.cdx.json", made(), key_in(folder)
    file.write_bytes(data)
    file.with_suffix(".sig").write_text(base64.b64encode(key.sign(data)).decode() + "\n")
    public = key.public_key().public_bytes(serialization.Encoding.PEM, serialization.PublicFormat.SubjectPublicKeyInfo)
    file.with_suffix(".pub").write_bytes(public)
    return file


def verify(file: Path) -> bool:
    """Is the list the one that was signed?"""
    public = serialization.load_pem_public_key(file.with_suffix(".pub").read_bytes())
    assert isinstance(public, Ed25519PublicKey)
    try:
        public.verify(base64.b64decode(file.with_suffix(".sig").read_text()), file.read_bytes())
    except InvalidSignature:
        return False
    return True


def main() -> int:
    parser = argparse.ArgumentParser(prog="./run sbom", description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--verify", action="store_true")
    args = parser.parse_args()
    file = args.folder / "fotaxis.cdx.json"
    if args.verify:
        good = verify(file)
        print(f"{file}: {'the list that was signed' if good else 'NOT the list that was signed'}")
        return 0 if good else 1
    print(f"{write(args.folder)}: {len(json.loads(file.read_bytes())['components'])} packages, signed.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
