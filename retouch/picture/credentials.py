"""Content credentials: a signed list of what was done, in the file itself (C2PA Technical Specification 2.2).

They are signed with a certificate of the user's own, or with a test certificate that is made on first use and
says that it is one. Nothing is fetched: no time stamps, no lists of trust, no other manifests.
"""

from __future__ import annotations

import datetime
import io
import json
import os
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import c2pa
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec, ed25519, rsa
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from retouch.errors import PictureError
from retouch.picture.write import Format
from retouch.picture.xmp import SOURCES

_AGENT = "Mellow Glass"
_TEST = "TEST certificate, says nothing about who signed"
_CHAIN, _KEY = "test-certificate.pem", "test-key.pem"
_DAYS = 3650
# Formats that hold a manifest here.
MEDIA: dict[Format, str] = {
    "jpeg": "image/jpeg", "png": "image/png", "tiff": "image/tiff", "webp": "image/webp",
    "avif": "image/avif",
}  # fmt: skip
# The original is named by what it holds, not shown: it is the sitter's.
_SETTINGS = {
    "builder": {"thumbnail": {"enabled": False}},
    "verify": {"remote_manifest_fetch": False, "ocsp_fetch": False},
}
# Actions of the specification (18.15) for groups of what was done that have one of their own. What was placed
# would have to be named as a file, too; in words it is part of the editing.
_ACTIONS = {"light and colour": "c2pa.color_adjustments"}


@dataclass(frozen=True)
class Credentials:
    """Who signs: a chain of certificates and the first one's key, both PEM; ``test``: it proves nothing."""

    chain: bytes
    key: bytes
    test: bool = False


@dataclass(frozen=True)
class Read:
    """What a file's credentials say: whether they are whole, who signed, what was done in words."""

    whole: bool
    signer: str
    done: tuple[str, ...]
    test: bool


def of_files(chain: Path, key: Path) -> Credentials:
    """Those of one's own.

    Raises
    ------
    PictureError
        In plain words, where the files can't be read or don't belong together.
    """
    try:
        made = Credentials(chain.read_bytes(), key.read_bytes())
    except OSError as error:
        raise PictureError(f"The certificate can't be read: {error.strerror}.") from None
    _algorithm(made)
    return made


def test_credentials(folder: Path) -> Credentials:
    """Those for trying, kept in a folder; made there on first use, the key for the owner's eyes alone."""
    try:
        return Credentials((folder / _CHAIN).read_bytes(), (folder / _KEY).read_bytes(), True)
    except FileNotFoundError:
        pass
    folder.mkdir(parents=True, exist_ok=True)
    made = _made_up()
    for name, data in ((_KEY, made.key), (_CHAIN, made.chain)):
        part = folder / f"{name}.{os.getpid()}.part"
        with open(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as file:
            file.write(data)
        os.replace(part, folder / name)
    return made


def _made_up() -> Credentials:
    """A test authority, and a certificate that it signs, as the specification asks for them (14.5.1)."""
    now = datetime.datetime.now(datetime.UTC)
    keys = [ec.generate_private_key(ec.SECP256R1()) for _ in range(2)]
    names = [
        x509.Name(
            [
                x509.NameAttribute(NameOID.ORGANIZATION_NAME, _AGENT),
                x509.NameAttribute(NameOID.COMMON_NAME, f"{_TEST}{end}"),
            ]
        )
        for end in (" (authority)", "")
    ]
    made = []
    for n, top in enumerate((True, False)):
        usage = {
            "digital_signature": not top, "content_commitment": False, "key_encipherment": False,
            "data_encipherment": False, "key_agreement": False, "key_cert_sign": top,
            "crl_sign": top, "encipher_only": False, "decipher_only": False,
        }  # fmt: skip
        begun = (
            x509.CertificateBuilder()
            .subject_name(names[n])
            .issuer_name(names[0])
            .public_key(keys[n].public_key())
            .serial_number(x509.random_serial_number())
            .not_valid_before(now - datetime.timedelta(days=1))
            .not_valid_after(now + datetime.timedelta(days=_DAYS))
            .add_extension(x509.BasicConstraints(top, 0 if top else None), critical=True)
            .add_extension(x509.KeyUsage(**usage), critical=True)
            .add_extension(x509.SubjectKeyIdentifier.from_public_key(keys[n].public_key()), False)
            .add_extension(
                x509.AuthorityKeyIdentifier.from_issuer_public_key(keys[0].public_key()), False
            )
        )
        if not top:
            mail = x509.ExtendedKeyUsage([ExtendedKeyUsageOID.EMAIL_PROTECTION])
            begun = begun.add_extension(mail, critical=False)
        made.append(begun.sign(keys[0], hashes.SHA256()))
    pem = serialization.Encoding.PEM
    chain = b"".join(one.public_bytes(pem) for one in reversed(made))
    key = keys[1].private_bytes(
        pem, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    return Credentials(chain, key, True)


def _algorithm(own: Credentials) -> Any:
    """The signing algorithm of a key, which has to be that of the certificate."""
    try:
        first = x509.load_pem_x509_certificates(own.chain)[0]
        key = serialization.load_pem_private_key(own.key, None)
    except (ValueError, TypeError, IndexError) as error:
        raise PictureError(f"The certificate or its key can't be used: {error}.") from None
    if first.public_key() != key.public_key():
        raise PictureError("This key isn't that of the certificate.")
    if isinstance(key, ec.EllipticCurvePrivateKey):
        known = {256: "ES256", 384: "ES384", 521: "ES512"}.get(key.curve.key_size)
    elif isinstance(key, rsa.RSAPrivateKey):
        known = "PS256"
    else:
        known = "ED25519" if isinstance(key, ed25519.Ed25519PrivateKey) else None
    if known is None:
        raise PictureError("Keys of this kind can't sign pictures.")
    return getattr(c2pa.C2paSigningAlg, known)


def signed(
    data: bytes,
    form: Format,
    title: str,
    done: Sequence[tuple[str, str]],
    own: Credentials,
    source: str,
    original: tuple[bytes, str] | None = None,
) -> bytes:
    """A file with its credentials.

    Parameters
    ----------
    done : sequence of (group, words)
        What was done, as `retouch.work.disclosure` has it.
    source : str
        A key of `SOURCES`.
    original : (bytes, media type), optional
        The file that was opened, which is named by its hash; None: it is of a format that can't be.

    Raises
    ------
    PictureError
        Where the format holds none, or the certificate can't sign.
    """
    if form not in MEDIA:
        raise PictureError("Content credentials go into JPEG, PNG, TIFF, WebP and AVIF.")
    if original is None:
        first: dict[str, Any] = {"action": "c2pa.created", "digitalSourceType": SOURCES[source]}
    else:
        first = {"action": "c2pa.opened", "parameters": {"ingredientIds": ["original"]}}
    actions = [first] + [
        {"action": _ACTIONS.get(group, "c2pa.edited"), "description": words}
        for group, words in done
    ]
    manifest = {
        "claim_generator_info": [{"name": _AGENT, "version": "1"}],
        "title": title,
        "assertions": [{"label": "c2pa.actions.v2", "data": {"actions": actions}}],
    }
    algorithm = _algorithm(own)
    out = io.BytesIO()
    try:
        with _context() as context:
            builder = c2pa.Builder(manifest, context)
            if original is not None:
                told = {"title": "Original", "relationship": "parentOf", "instance_id": "original", "label": "original"}  # fmt: skip
                builder.add_ingredient(told, original[1], io.BytesIO(original[0]))
            info = c2pa.C2paSignerInfo(algorithm, own.chain, own.key, None)
            builder.sign(c2pa.Signer.from_info(info), MEDIA[form], io.BytesIO(data), out)
    except c2pa.C2paError as error:
        raise PictureError(f"The content credentials couldn't be signed: {error}.") from None
    return out.getvalue()


def read(data: bytes, form: Format) -> Read | None:
    """The credentials of a file; None: it has none."""
    try:
        with _context() as context:
            told = json.loads(c2pa.Reader(MEDIA[form], io.BytesIO(data), context=context).json())
    except c2pa.C2paError:
        return None
    manifest = told["manifests"][told["active_manifest"]]
    done = [
        action.get("description", "")
        for one in manifest.get("assertions", [])
        if one["label"].startswith("c2pa.actions")
        for action in one["data"]["actions"]
    ]
    signer = str(manifest.get("signature_info", {}).get("common_name", ""))
    whole = told.get("validation_state") in ("Valid", "Trusted")
    return Read(whole, signer, tuple(d for d in done if d), signer.startswith("TEST"))


def _context() -> Any:
    return c2pa.Context(settings=c2pa.Settings.from_dict(_SETTINGS))
