"""The zones there are: their names, and the words for them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Zone:
    """A kind of zone; ``kind`` tells skin of the face from other skin, features and the rest.

    Zones of the kind ``over`` say something about others and lie over them.
    """

    name: str
    title: str
    kind: Literal["face", "skin", "feature", "rest", "over"]


ZONES = (
    Zone("forehead", "Forehead", "face"),
    Zone("eyelids", "Eyelids", "face"),
    Zone("nose", "Nose", "face"),
    Zone("cheek_right", "Right cheek", "face"),
    Zone("cheek_left", "Left cheek", "face"),
    Zone("under_eye_right", "Under the right eye", "face"),
    Zone("under_eye_left", "Under the left eye", "face"),
    Zone("mouth_area", "Around the mouth", "face"),
    Zone("chin", "Chin", "face"),
    Zone("jaw", "Jaw", "face"),
    Zone("ears", "Ears", "face"),
    Zone("neck", "Neck", "skin"),
    Zone("other_skin", "Other skin", "skin"),
    Zone("lip_upper", "Upper lip", "feature"),
    Zone("lip_lower", "Lower lip", "feature"),
    Zone("teeth", "Teeth", "feature"),
    Zone("eye_whites", "Eye whites", "feature"),
    Zone("irises", "Irises", "feature"),
    Zone("pupils", "Pupils", "feature"),
    Zone("lashes", "Lashes", "feature"),
    Zone("brows", "Brows", "feature"),
    Zone("lenses", "Lenses of glasses", "feature"),
    Zone("hair", "Hair", "rest"),
    Zone("beard", "Beard", "rest"),
    Zone("worn", "Glasses and things worn", "rest"),
    Zone("clothing", "Clothing", "rest"),
    Zone("background", "Background", "rest"),
    Zone("stubble", "Stubble", "over"),
    Zone("glasses", "Frame of glasses", "over"),
    Zone("unsure", "Unsure", "over"),
)
SKIN_OF_FACE = tuple(z.name for z in ZONES if z.kind == "face")
# What only says something about other zones.
OVER = tuple(z.name for z in ZONES if z.kind == "over")
ALL_SKIN = tuple(z.name for z in ZONES if z.kind in ("face", "skin"))
FEATURES = tuple(z.name for z in ZONES if z.kind == "feature")
# Zones that stand for several.
TOGETHER: dict[str, tuple[str, ...]] = {
    "skin": ALL_SKIN,
    "face_skin": SKIN_OF_FACE,
    "lips": ("lip_upper", "lip_lower"),
    "eyes": ("eye_whites", "irises"),
}
TOGETHER_TITLES = {
    "skin": "All skin",
    "face_skin": "Skin of the face",
    "lips": "Lips",
    "eyes": "Eyes",
}
ZONE_NAMES = (*TOGETHER, *(z.name for z in ZONES))


# Regions that are drawn from the mesh (`retouch.face.regions`): masks may name them, too.
REGION_TITLES = {
    "lid_above": "Upper lids",
    "lid_below": "Lower lids",
    "lash_line": "Lash line",
    "waterline": "Waterline",
    "blush": "Blush",
    "cheekbone": "Cheekbones",
    "hollow": "Below the cheekbones",
    "bridge": "Bridge of the nose",
}
AREA_NAMES = (*ZONE_NAMES, *REGION_TITLES)


def members(name: str) -> tuple[str, ...]:
    """The single zones behind a name."""
    return TOGETHER.get(name, (name,))
