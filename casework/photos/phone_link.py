"""How a phone finds its way to this counter: an address as a QR code, and whether a phone can reach it at all."""

import io
import ipaddress

import segno


def qr_code(address: str) -> str:
    """The address as an inline SVG."""
    target = io.BytesIO()
    segno.make(address, error="m").save(
        target, kind="svg", scale=5, border=2, xmldecl=False, svgns=True, omitsize=False, dark="#18191b", light="#fff"
    )
    return target.getvalue().decode()


def is_loopback(host: str) -> bool:
    """Whether a host name, with or without a port, is this machine itself: no phone gets there.

    >>> is_loopback("127.0.0.1:8000"), is_loopback("[::1]:8000"), is_loopback("192.168.4.20:8000")
    (True, True, False)
    """
    name = host.rsplit(":", 1)[0] if host.count(":") == 1 or (host.startswith("[") and not host.endswith("]")) else host
    try:
        return ipaddress.ip_address(name.strip("[]")).is_loopback
    except ValueError:
        return name == "localhost"
