"""What this machine is called on its networks."""

import ipaddress
import re
import socket

import ifaddr

from lepidos.settings import Settings

EVERYWHERE = {"0.0.0.0", "::"}  # noqa: S104 - as a setting has it
ON_THE_NETWORK = "lepidos.local"  # by zeroconf, see `announce`


def own_addresses() -> list[str]:
    """Its IPv4 addresses but the loopback's, those of private networks first."""
    found = {
        str(ip.ip)
        for adapter in ifaddr.get_adapters()
        for ip in adapter.ips
        if ip.is_IPv4 and not ipaddress.ip_address(str(ip.ip)).is_loopback
    }
    return sorted(found, key=lambda text: (not ipaddress.ip_address(text).is_private, text))


def own_names() -> list[str]:
    """Its host name, alone and as the local network has it."""
    name = socket.gethostname().split(".")[0].lower()
    # a name of other characters could not stand in a certificate
    plain = [name, f"{name}.local"] if re.fullmatch(r"[a-z0-9-]{1,63}", name) else []
    return [ON_THE_NETWORK, *plain]


def shared_at(settings: Settings) -> list[str]:
    """The addresses at which other machines find the app."""
    if settings.share:
        return [f"https://{a}:{settings.share_port}" for a in (*own_addresses(), ON_THE_NETWORK)]
    hosts = own_addresses() if settings.host in EVERYWHERE else [settings.host]
    return [f"http://{a}:{settings.port}" for a in hosts]
