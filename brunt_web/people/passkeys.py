"""Passkeys (WebAuthn, by the package webauthn): made on the account's page, asked as the second step of signing in."""

import json
from datetime import datetime
from typing import Any

import webauthn
from django.contrib.auth.models import User
from django.http import HttpRequest
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from brunt_core.errors import InputError
from brunt_web.people.models import Passkey


def _here(request: HttpRequest) -> tuple[str, str]:
    host = request.get_host()
    return host.partition(":")[0], f"{request.scheme}://{host}"


def passkey_wanted(request: HttpRequest, user: User) -> str:
    """What the browser is asked to make a key for, as JSON; the challenge waits in the session."""
    rp, _ = _here(request)
    made = webauthn.generate_registration_options(
        rp_id=rp,
        rp_name="Brunt",
        user_name=user.get_username(),
        user_id=str(user.pk).encode(),
        exclude_credentials=[
            PublicKeyCredentialDescriptor(id=bytes(p.credential)) for p in user.passkeys.all()
        ],
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.DISCOURAGED,
            user_verification=UserVerificationRequirement.PREFERRED,
        ),
    )
    request.session["passkey"] = made.challenge.hex()
    return webauthn.options_to_json(made)


def keep_passkey(request: HttpRequest, user: User, answer: str, name: str) -> Passkey:
    """Keep the key a browser made. Raises :class:`InputError` where it does not belong to what was asked."""
    found: Any = _verified(request, answer, webauthn.verify_registration_response)
    return Passkey.objects.create(
        user=user,
        name=" ".join(name.split())[:60] or "a passkey",
        credential=found.credential_id,
        public_key=found.credential_public_key,
        sign_count=found.sign_count,
    )


def passkey_asked(request: HttpRequest, user: User) -> str:
    """What the browser is asked to sign, as JSON; the challenge waits in the session."""
    rp, _ = _here(request)
    made = webauthn.generate_authentication_options(
        rp_id=rp,
        allow_credentials=[
            PublicKeyCredentialDescriptor(id=bytes(p.credential)) for p in user.passkeys.all()
        ],
        user_verification=UserVerificationRequirement.PREFERRED,
    )
    request.session["passkey"] = made.challenge.hex()
    return webauthn.options_to_json(made)


def check_passkey(request: HttpRequest, user: User, answer: str, now: datetime) -> bool:
    """Whether a key of the person's signed what was asked."""
    try:
        raw = webauthn.base64url_to_bytes(json.loads(answer)["rawId"])
    except (ValueError, KeyError, TypeError):
        return False
    key = next((p for p in user.passkeys.all() if bytes(p.credential) == raw), None)
    if key is None:
        return False
    more = {
        "credential_public_key": bytes(key.public_key),
        "credential_current_sign_count": key.sign_count,
    }
    try:
        found: Any = _verified(request, answer, webauthn.verify_authentication_response, **more)
    except InputError:
        return False
    key.sign_count, key.used_at = found.new_sign_count, now
    key.save(update_fields=["sign_count", "used_at"])
    return True


def _verified(request: HttpRequest, answer: str, verify: Any, **more: Any) -> Any:
    challenge = request.session.pop("passkey", "")
    rp, origin = _here(request)
    try:
        return verify(
            credential=answer,
            expected_challenge=bytes.fromhex(challenge),
            expected_rp_id=rp,
            expected_origin=origin,
            **more,
        )
    except (WebAuthnException, ValueError, KeyError, TypeError) as problem:
        raise InputError(f"The passkey was not accepted: {str(problem)[:120]}", "passkey") from None
