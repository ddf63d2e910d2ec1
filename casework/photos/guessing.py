"""Addresses that try secrets of links which are none are turned away for a while, before anything of theirs is read."""

from ipaddress import ip_address

from django.core.cache import cache
from django.http import HttpRequest

MOST_WRONG = 20
FOR_S = 600


def is_guessing(request: HttpRequest) -> bool:
    """Whether its address has tried ``MOST_WRONG`` wrong secrets of late. Behind a proxy on this machine all come from
    one address: there the proxy must do it."""
    return not ip_address(_address(request)).is_loopback and cache.get(_key(request), 0) >= MOST_WRONG


def wrong_secret(request: HttpRequest) -> None:
    """Note one more. Forgotten ``FOR_S`` seconds after the first."""
    cache.add(_key(request), 0, FOR_S)
    cache.incr(_key(request))


def _key(request: HttpRequest) -> str:
    return f"guessing-{_address(request)}"


def _address(request: HttpRequest) -> str:
    return request.META.get("REMOTE_ADDR") or "127.0.0.1"
