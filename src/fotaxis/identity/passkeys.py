"""services.people.factors.KeyCeremony by webauthn.   Source: W3C Web Authentication, level 2."""

from __future__ import annotations

import json
from urllib.parse import urlsplit

from webauthn import (
    generate_authentication_options,
    generate_registration_options,
    options_to_json,
    verify_authentication_response,
    verify_registration_response,
)
from webauthn.helpers import base64url_to_bytes
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from fotaxis.services.ports import Passkey, Refused, User

WRONG = "The passkey did not answer as it should. Try again, or sign in with name and password."


def _host(site: str) -> str:
    return urlsplit(site).hostname or ""


class WebKeys:
    """site: the address of the page's server, as https://fotaxis.studio.example; keys are bound to its host."""

    def creation(self, *, challenge: bytes, user: User, known: list[Passkey], site: str) -> str:
        options = generate_registration_options(
            rp_id=_host(site), rp_name="Fotaxis", user_name=user.login, user_id=user.id.bytes, user_display_name=user.name,
            challenge=challenge,
            exclude_credentials=[PublicKeyCredentialDescriptor(id=key.credential_id) for key in known],
            authenticator_selection=AuthenticatorSelectionCriteria(
                resident_key=ResidentKeyRequirement.REQUIRED, user_verification=UserVerificationRequirement.REQUIRED
            ),
        )  # fmt: skip
        return options_to_json(options)

    def created(self, answer: str, *, challenge: bytes, site: str) -> tuple[bytes, bytes, int]:
        try:
            found = verify_registration_response(
                credential=answer, expected_challenge=challenge, expected_rp_id=_host(site), expected_origin=site,
                require_user_verification=True,
            )  # fmt: skip
        except (WebAuthnException, ValueError, KeyError, TypeError) as error:
            raise Refused(WRONG) from error
        return found.credential_id, found.credential_public_key, found.sign_count

    def request(self, *, challenge: bytes, site: str) -> str:
        options = generate_authentication_options(
            rp_id=_host(site), challenge=challenge, user_verification=UserVerificationRequirement.REQUIRED
        )
        return options_to_json(options)

    def challenge_of(self, answer: str) -> bytes:
        try:
            told = json.loads(base64url_to_bytes(json.loads(answer)["response"]["clientDataJSON"]))
            return base64url_to_bytes(told["challenge"])
        except (ValueError, KeyError, TypeError, AttributeError) as error:
            raise Refused(WRONG) from error

    def credential_of(self, answer: str) -> bytes:
        try:
            return base64url_to_bytes(json.loads(answer)["rawId"])
        except (ValueError, KeyError, TypeError, AttributeError) as error:
            raise Refused(WRONG) from error

    def proven(self, answer: str, *, challenge: bytes, key: Passkey, site: str) -> int:
        try:
            found = verify_authentication_response(
                credential=answer, expected_challenge=challenge, expected_rp_id=_host(site), expected_origin=site,
                credential_public_key=key.public_key, credential_current_sign_count=key.sign_count,
                require_user_verification=True,
            )  # fmt: skip
        except (WebAuthnException, ValueError, KeyError, TypeError) as error:
            raise Refused(WRONG) from error
        return found.new_sign_count
