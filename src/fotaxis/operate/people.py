"""`fotaxis people`: for an installation whose owner cannot sign in, and for another studio on it."""

from __future__ import annotations

import argparse
import getpass
import sys
from collections.abc import Callable

from fotaxis.services.people.accounts import Accounts
from fotaxis.services.people.staff import Staff
from fotaxis.services.ports import Refused


def add_arguments(parser: argparse.ArgumentParser) -> None:
    commands = parser.add_subparsers(dest="people", required=True, metavar="COMMAND")
    commands.add_parser("list", help="everybody, by studio")
    for name, words in (
        ("new-password", "print a link with which somebody sets a new password (switches codes off)"),
        ("make-owner", "make somebody an owner of their studio, taken in again if need be"),
        ("remove", "take somebody out; all their sessions end"),
    ):
        commands.add_parser(name, help=words).add_argument("login", help="sign-in name")
    studio = commands.add_parser("add-studio", help="another studio with its owner; asks for the password")
    for name in ("--studio", "--login", "--name"):
        studio.add_argument(name, required=True)


def run(args: argparse.Namespace, staff: Staff, accounts: Accounts, *, ask: Callable[[str], str] = getpass.getpass) -> int:
    """Exit code 0: done; 2: it cannot be done, with the reason on standard error."""
    try:
        if args.people == "list":
            for person in staff.everybody():
                marks = (" · removed" if person.removed else "") + (" · codes" if person.totp_secret else "")
                print(f"{person.studio_name}: {person.login}, {person.name}, {person.role.value}{marks}")
        elif args.people == "new-password":
            person = staff.by_login(args.login)
            token = staff.reset_link(person.studio_id, user_id=person.id)
            print(f"Give {person.name} this address on your server, for one use within a day:\n  /new-password/{token}")
        elif args.people == "make-owner":
            person = staff.make_owner(args.login)
            print(f"{person.name} is an owner of {person.studio_name}.")
        elif args.people == "remove":
            person = staff.remove_by_login(args.login)
            print(f"{person.name} was removed from {person.studio_name}.")
        else:
            password = ask(f"Password for {args.login}: ")
            owner = accounts.create_studio(studio_name=args.studio, login=args.login, name=args.name, password=password)
            print(f"{owner.studio_name} is there; {owner.name} signs in as {owner.login}.")
    except Refused as error:
        print(error, file=sys.stderr)
        return 2
    return 0
