"""The command `fotaxis`: shot files without a server, or the care of an installation; each loads only what it needs."""

from __future__ import annotations

import sys

CARE = ("people", "backup", "restore")


def main() -> int:
    """Exit code of whichever did it."""
    if sys.argv[1:2] and sys.argv[1] in CARE:
        from fotaxis.main import main as care

        return care(sys.argv[1:])
    from fotaxis.cli import main as files

    return files()


if __name__ == "__main__":
    sys.exit(main())
