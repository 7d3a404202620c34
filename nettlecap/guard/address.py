"""From where a request comes: from who connects, or where that is a proxy of ours, from whom it names."""

from __future__ import annotations

import ipaddress
from collections.abc import Callable, Iterable
from functools import cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse

Network = ipaddress.IPv4Network | ipaddress.IPv6Network
FORWARDED = (
    "HTTP_X_FORWARDED_FOR",
    "HTTP_X_FORWARDED_PROTO",
    "HTTP_X_FORWARDED_HOST",
    "HTTP_X_FORWARDED_PORT",
    "HTTP_X_REQUEST_ID",
)


@cache
def _networks(told: tuple[str, ...]) -> tuple[Network, ...]:
    return tuple(ipaddress.ip_network(t, strict=False) for t in told)


def is_trusted(address: str, proxies: Iterable[str]) -> bool:
    """Whether an address is that of a proxy of ours."""
    try:
        there = ipaddress.ip_address(address.strip())
    except ValueError:
        return False
    return any(there in network for network in _networks(tuple(proxies)))


def client_of(peer: str, forwarded: str, proxies: Iterable[str]) -> str:
    """The address of who asks: the last one named that is no proxy of ours. What others name counts for nothing."""
    proxies = tuple(proxies)
    if not is_trusted(peer, proxies):
        return peer
    last = peer
    for named in reversed(forwarded.split(",")):
        try:
            last = str(ipaddress.ip_address(named.strip()))
        except ValueError:
            return last
        if not is_trusted(last, proxies):
            return last
    return last


class ClientAddress:
    """Puts the client's own address in its place, and takes away what nobody trusted has said of it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        peer = request.META.get("REMOTE_ADDR", "")
        proxies = settings.TRUSTED_PROXIES
        if is_trusted(peer, proxies):
            request.META["REMOTE_ADDR"] = client_of(peer, request.META.get("HTTP_X_FORWARDED_FOR", ""), proxies)
        else:
            for name in FORWARDED:
                request.META.pop(name, None)
        return self.get_response(request)
