"""A shop's signing key: a file beside the database, which a change to the database alone cannot sign with."""

from pathlib import Path

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat, PublicFormat
from django.conf import settings

from pairs.models import Organisation


def has_key(organisation: Organisation) -> bool:
    """Whether it was ever asked for."""
    return _file(organisation).exists()


def _file(organisation: Organisation) -> Path:
    return Path(settings.DATA_DIR) / "keys" / f"house-{organisation.pk}.key"


def key_of(organisation: Organisation) -> Ed25519PrivateKey:
    """The shop's signing key, made when it is first asked for; only this machine's owner can read it."""
    path = _file(organisation)
    if not path.exists():
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        made = Ed25519PrivateKey.generate().private_bytes(Encoding.Raw, PrivateFormat.Raw, NoEncryption())
        path.touch(mode=0o600)
        path.write_text(made.hex())
    return Ed25519PrivateKey.from_private_bytes(bytes.fromhex(path.read_text().strip()))


def public_key(organisation: Organisation) -> str:
    """The public half, hexadecimal."""
    return key_of(organisation).public_key().public_bytes(Encoding.Raw, PublicFormat.Raw).hex()


def is_signed(text: bytes, signature: str, key: str) -> bool:
    """Whether a signature, hexadecimal, is the key's under these bytes."""
    try:
        Ed25519PublicKey.from_public_bytes(bytes.fromhex(key)).verify(bytes.fromhex(signature), text)
    except (InvalidSignature, ValueError):
        return False
    return True
