"""Zones that go together when something is taken from one place for another."""

from __future__ import annotations

from retouch.face import ALL_SKIN

# What is alike enough to be drawn from for each other.
GROUPS: dict[str, tuple[str, ...]] = {
    "skin": ALL_SKIN,
    "lips": ("lip_upper", "lip_lower"),
    "teeth": ("teeth",),
    "eyes": ("eye_whites", "irises", "pupils"),
    "lashes": ("lashes",),
    "brows": ("brows",),
    "lenses": ("lenses",),
    "hair": ("hair",),
    "beard": ("beard",),
    "worn": ("worn",),
    "clothing": ("clothing",),
    "background": ("background",),
}
# Features so small, or so unlike what is around them, that their tone never fits the place beside.
APART = ("lips", "teeth", "eyes")


def group_of_zone(zone: str) -> str:
    """The group that a zone belongs to; "skin" for all that has no other."""
    return next((group for group, names in GROUPS.items() if zone in names), "skin")


def beside(group: str) -> tuple[str, ...]:
    """All zones of the other groups."""
    return tuple(z for other, names in GROUPS.items() if other != group for z in names)
