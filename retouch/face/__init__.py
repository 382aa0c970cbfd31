"""Understanding faces: where they are, their scale, zones and marks."""

from retouch.face.analysis import Analysis, Hints, analyse, analyse_file, load, save
from retouch.face.find import Face
from retouch.face.judging import Mark
from retouch.face.marks import visible
from retouch.zone_names import ALL_SKIN, SKIN_OF_FACE, ZONES, Zone

__all__ = [
    "ALL_SKIN",
    "SKIN_OF_FACE",
    "ZONES",
    "Analysis",
    "Face",
    "Hints",
    "Mark",
    "Zone",
    "analyse",
    "analyse_file",
    "load",
    "save",
    "visible",
]
