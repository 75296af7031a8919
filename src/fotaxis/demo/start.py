"""`./run demo`: a private PostgreSQL on loopback and the demo server; stopping this stops both."""

from __future__ import annotations

import os
import secrets
import sys
from pathlib import Path

from fotaxis.demo.private_postgres import AlreadyRunning, PrivatePostgres

DATABASE_PORT = 8451


def main() -> int:
    """Arguments: state folder, PostgreSQL's folder of programs. FOTAXIS_PORT and FOTAXIS_DATABASE_PORT choose ports."""
    folder, programs = Path(sys.argv[1]), Path(sys.argv[2])
    port = int(os.environ.get("FOTAXIS_DATABASE_PORT", DATABASE_PORT))
    try:
        with PrivatePostgres(folder, programs=programs, port=port) as postgres:
            secret = folder / "secret"
            if not secret.exists():
                secret.write_text(secrets.token_urlsafe(48))
                secret.chmod(0o600)
            environment = {
                "FOTAXIS_DATABASE_URL": postgres.url,
                "FOTAXIS_SECRET": secret.read_text(),
                "FOTAXIS_HTTPS_ONLY": "false",
            }
            return postgres.run_beside([sys.executable, "-m", "fotaxis.main", "demo"], environment)
    except AlreadyRunning as error:
        print(error, file=sys.stderr)
        return 1


if __name__ == "__main__":
    sys.exit(main())
