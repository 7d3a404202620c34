"""The installation's own key pair, by which a school's system knows that it is us; made on first use."""

from __future__ import annotations

import hashlib
import json
from typing import Any

import jwt
from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric import rsa
from django.conf import settings

ALGORITHM, BITS = "RS256", 2048


def private_key() -> rsa.RSAPrivateKey:
    """The key, kept beside the data and readable by nobody else."""
    path = settings.DATA / "school_key.pem"
    if not path.exists():
        key = rsa.generate_private_key(public_exponent=65537, key_size=BITS)
        path.touch(mode=0o600)
        path.write_bytes(
            key.private_bytes(
                serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
            )
        )
    loaded = serialization.load_pem_private_key(path.read_bytes(), password=None)
    assert isinstance(loaded, rsa.RSAPrivateKey)  # noqa: S101 (nothing else is ever written there)
    return loaded


def key_set() -> dict[str, Any]:
    """The public half as a JSON Web Key Set (RFC 7517), for the school's system to fetch."""
    return {"keys": [{**_public(), "kid": key_id(), "alg": ALGORITHM, "use": "sig"}]}


def key_id() -> str:
    """What the key is called: its thumbprint (RFC 7638), shortened."""
    public = _public()
    told = json.dumps({k: public[k] for k in ("e", "kty", "n")}, separators=(",", ":"), sort_keys=True)
    return hashlib.sha256(told.encode()).hexdigest()[:24]


def _public() -> dict[str, Any]:
    told: dict[str, Any] = jwt.algorithms.RSAAlgorithm.to_jwk(private_key().public_key(), as_dict=True)
    return {k: told[k] for k in ("kty", "n", "e")}
