"""A certificate's PDF under the shop's signature, as any reader of PDF checks it (PAdES baseline, ETSI EN 319 142-1).

The shop signs with a key of its own for documents (ECDSA on P-256: the readers know no Ed25519), under a certificate
that it issues to itself: a reader shows that nothing was changed since, and whose key it was, but no authority vouches
for the name.
"""

import io
from datetime import UTC, datetime, timedelta
from pathlib import Path

import asn1crypto.x509
from asn1crypto import pem
from asn1crypto.keys import PrivateKeyInfo
from cryptography import x509
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat
from cryptography.x509.oid import NameOID
from django.conf import settings
from pyhanko.pdf_utils.incremental_writer import IncrementalPdfFileWriter
from pyhanko.sign import signers
from pyhanko.sign.fields import SigSeedSubFilter
from pyhanko_certvalidator.registry import SimpleCertificateStore

from pairs.models import Organisation

LASTS = timedelta(days=3650)


def signed(pdf: bytes, organisation: Organisation) -> bytes:
    """The PDF with the shop’s signature over all of it."""
    key, certificate = _identity(organisation)
    signer = signers.SimpleSigner(
        signing_cert=certificate, signing_key=key, cert_registry=SimpleCertificateStore.from_certs([certificate])
    )
    said = signers.PdfSignatureMetadata(
        field_name="Shop",
        md_algorithm="sha256",
        subfilter=SigSeedSubFilter.PADES,
        name=organisation.name,
        reason="Certificate",
    )
    target = io.BytesIO()
    signers.PdfSigner(said, signer).sign_pdf(IncrementalPdfFileWriter(io.BytesIO(pdf)), output=target)
    return target.getvalue()


def fingerprint(organisation: Organisation) -> str:
    """SHA-256 of the shop's certificate, hexadecimal: what a reader shows of who signed."""
    return _identity(organisation)[1].sha256.hex()


def _identity(organisation: Organisation) -> tuple[PrivateKeyInfo, asn1crypto.x509.Certificate]:
    """The shop's key for documents and its certificate, made when first asked for; only this machine's owner can read
    them."""
    path = _file(organisation)
    if not path.exists():
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_bytes(_made(organisation))
    key, certificate = (der for _, _, der in pem.unarmor(path.read_bytes(), multiple=True))
    return PrivateKeyInfo.load(key), asn1crypto.x509.Certificate.load(certificate)


def _file(organisation: Organisation) -> Path:
    return Path(settings.DATA_DIR) / "keys" / f"house-{organisation.pk}-documents.pem"


def _made(organisation: Organisation) -> bytes:
    key, now = ec.generate_private_key(ec.SECP256R1()), datetime.now(UTC)
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, organisation.name[:64])])
    usage = x509.KeyUsage(
        digital_signature=True, content_commitment=True, key_encipherment=False, data_encipherment=False,
        key_agreement=False, key_cert_sign=False, crl_sign=False, encipher_only=False, decipher_only=False,
    )  # fmt: skip
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + LASTS)
        .add_extension(usage, critical=True)
        .sign(key, hashes.SHA256())
    )
    private = key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())
    return private + made.public_bytes(Encoding.PEM)
