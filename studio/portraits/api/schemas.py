"""The forms the API takes and gives."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import ConfigDict, Field

Value = bool | float | str
Point = Annotated[list[float], Field(min_length=2, max_length=2)]
Offset = Annotated[list[int], Field(min_length=2, max_length=2)]


class Strict(Schema):
    model_config = ConfigDict(extra="forbid")


class Message(Schema):
    """Every error: a code for programs, a sentence for people."""

    code: str
    message: str
    revision: int | None = None


class PortraitOut(Schema):
    """A portrait as the wall shows it."""

    id: str
    name: str
    width: int
    height: int
    bits: int
    format: str
    profile: str
    size_bytes: int
    revision: int
    touched: bool
    created_at: datetime
    worked_at: datetime
    deleted_at: datetime | None


class RenameIn(Strict):
    name: str


class TouchOut(Schema):
    id: str
    path: list[Point]
    values: dict[str, Value]
    source: Offset | None
    spare: list[list[Point]] = []
    enabled: bool = True


class MaskStroke(Strict):
    """A stroke that hides the pass (eases it) or shows it again."""

    path: list[Point]
    radius_px: float
    softness: float = 50
    flow: float = 100
    reveal: bool = False
    edges: float = 0


Blend = Literal[
    "normal", "multiply", "screen", "darken", "lighten", "soft-light", "hue", "saturation",
    "colour", "luminosity",
]  # fmt: skip
Way = Literal["add", "take", "cross"]


class ZoneArea(Strict):
    """A zone of one face, or of everyone's (-1)."""

    kind: Literal["zone"]
    way: Way = "add"
    invert: bool = False
    zone: str
    face: int = -1


class RangeArea(Strict):
    """Colours like the samples (CIELAB), within limits of light and saturation."""

    kind: Literal["range"]
    way: Way = "add"
    invert: bool = False
    colours: list[list[float]] = []
    tolerance: float = 12
    softness: float = 50
    light: list[float] = [0, 100]
    saturation: list[float] = [0, 100]


class OutlineArea(Strict):
    """The inside of a closed outline."""

    kind: Literal["outline"]
    way: Way = "add"
    invert: bool = False
    points: list[Point]
    feather_px: float = 0


class GradientArea(Strict):
    """Full at ``start``, nothing at ``end``."""

    kind: Literal["gradient"]
    way: Way = "add"
    invert: bool = False
    start: Point
    end: Point
    round: bool = False


Area = Annotated[ZoneArea | RangeArea | OutlineArea | GradientArea, Field(discriminator="kind")]


class MaskOut(Schema):
    """Where a pass acts; its strokes are counted apart."""

    areas: list[Area] = []
    invert: bool = False
    grow_px: float = 0
    feather_px: float = 0


class PassHead(Schema):
    """A pass without its touches and the strokes of its mask."""

    id: str
    kind: str
    name: str
    settings: dict[str, Value]
    mask: MaskOut
    strength: float
    blend: Blend
    enabled: bool
    stage_on: bool = True


class PassOut(PassHead):
    touches: list[TouchOut]
    strokes: int


class HistoryOut(Schema):
    """``at`` of ``count`` entries are in force; names of the steps back and forward."""

    at: int
    count: int
    undo: str | None
    redo: str | None


class DeskOut(Schema):
    """A portrait opened on the bench."""

    portrait: PortraitOut
    passes: list[PassOut]
    history: HistoryOut


class PassChange(Schema):
    """A pass before and after; None where it didn't or doesn't exist."""

    what: Literal["pass"]
    id: str
    pass_id: str
    index: int
    before: PassHead | None
    after: PassHead | None


class TouchChange(Schema):
    """A touch before and after; None where it didn't or doesn't exist."""

    what: Literal["touch"]
    id: str
    pass_id: str
    index: int
    before: TouchOut | None
    after: TouchOut | None


class StrokesChange(Schema):
    """The strokes of a pass's mask from ``index`` on, before and after."""

    what: Literal["strokes"]
    id: str
    pass_id: str
    index: int
    before: list[MaskStroke]
    after: list[MaskStroke]


Change = Annotated[PassChange | TouchChange | StrokesChange, Field(discriminator="what")]


class OutcomeOut(Schema):
    """What a gesture did. ``dirty`` is x0, y0, x1, y1 in pixels of the original."""

    revision: int
    changes: list[Change]
    dirty: list[int]
    touch_id: str | None
    pass_id: str | None = None
    notice: str | None = None
    history: HistoryOut
    worked_at: datetime


class AddPass(Strict):
    op: Literal["add_pass"]
    kind: str
    id: str | None = None
    name: str | None = None
    settings: dict[str, Value] | None = None
    areas: list[Area] | None = None
    # The person whose skin it is fitted to; everyone with the largest face's for none.
    face: int | None = None


class RemovePass(Strict):
    op: Literal["remove_pass"]
    id: str


class ChangePass(Strict):
    op: Literal["change_pass"]
    id: str
    name: str | None = None
    strength: float | None = None
    enabled: bool | None = None
    blend: Blend | None = None
    settings: dict[str, Value] | None = None


class MovePass(Strict):
    op: Literal["move_pass"]
    id: str
    index: int


class NewTouch(Strict):
    """A touch to add; without a source the best one is chosen."""

    id: str | None = None
    path: list[Point]
    values: dict[str, Value] = {}
    source: Offset | None = None
    spare: list[list[Point]] | None = None


class AddTouch(Strict):
    """Add a touch to a pass; without ``pass_id`` to the topmost pass of the kind, or a new one.

    With ``settings`` that name a band, only passes that work in this band fit, and a new one
    gets the settings. A fill keeps from other zones of the face unless it may draw from
    ``anywhere``.
    """

    op: Literal["add_touch"]
    kind: str
    pass_id: str | None = None
    touch: NewTouch
    settings: dict[str, Value] | None = None
    anywhere: bool | None = None


class AddTouches(Strict):
    """Several touches as one gesture; ``label`` names it in the history."""

    op: Literal["add_touches"]
    kind: str
    pass_id: str | None = None
    touches: Annotated[list[NewTouch], Field(min_length=1, max_length=2000)]
    label: Annotated[str, Field(max_length=120)] | None = None


class RemoveTouches(Strict):
    op: Literal["remove_touches"]
    ids: Annotated[list[str], Field(min_length=1, max_length=2000)]
    label: Annotated[str, Field(max_length=120)] | None = None


class ChangeTouch(Strict):
    """Move, resize or re-source a touch; ``new_source`` chooses again."""

    op: Literal["change_touch"]
    id: str
    path: list[Point] | None = None
    values: dict[str, Value] | None = None
    source: Offset | None = None
    new_source: bool = False
    mirrored: bool | None = None
    enabled: bool | None = None


class PaintMask(Strict):
    """Paint on a pass's mask: ease what it did, or bring it back."""

    op: Literal["paint_mask"]
    pass_id: str
    stroke: MaskStroke


class SetMask(Strict):
    """Change where a pass acts; what isn't given stays. ``label`` begins the history's words."""

    op: Literal["set_mask"]
    pass_id: str
    areas: list[Area] | None = None
    invert: bool | None = None
    grow_px: float | None = None
    feather_px: float | None = None
    clear_strokes: bool = False
    label: Annotated[str, Field(max_length=60)] | None = None


class CopyMask(Strict):
    """Give a pass the mask of another."""

    op: Literal["copy_mask"]
    pass_id: str
    from_id: str


class DuplicatePass(Strict):
    op: Literal["duplicate_pass"]
    id: str


class SwitchStage(Strict):
    """All passes of a stage off, or back to how each was."""

    op: Literal["switch_stage"]
    stage: Literal["look", "clear", "even", "features", "shape", "finish", "deliver"]
    on: bool


class BringPasses(Strict):
    """Copies of passes of another portrait of the same owner."""

    op: Literal["bring_passes"]
    portrait_id: str
    ids: Annotated[list[str], Field(min_length=1, max_length=500)]


class ApplyRoutine(Strict):
    """Spots healed and passes on skin made, fitted to the face, as one step."""

    op: Literal["apply_routine"]
    name: str
    # One person of a group; none: everyone.
    face: int | None = None
    # Leaves neck, arms and hands alone.
    only_face: bool = False


class ReturnToTake(Strict):
    """The state of a take, as a step that can be undone."""

    op: Literal["return_to_take"]
    take_id: str
    name: Annotated[str, Field(max_length=200)]


class DuplicateTouches(Strict):
    """Copies of touches beside themselves, on top of their pass."""

    op: Literal["duplicate_touches"]
    ids: Annotated[list[str], Field(min_length=1, max_length=2000)]


class ChangeTouches(Strict):
    """Several touches moved, given values, or switched, as one gesture."""

    op: Literal["change_touches"]
    ids: Annotated[list[str], Field(min_length=1, max_length=2000)]
    shift: Offset | None = None
    values: dict[str, Value] | None = None
    enabled: bool | None = None


class RemoveTouch(Strict):
    op: Literal["remove_touch"]
    id: str


Operation = Annotated[
    AddPass
    | RemovePass
    | ChangePass
    | MovePass
    | AddTouch
    | AddTouches
    | ChangeTouch
    | RemoveTouch
    | RemoveTouches
    | ChangeTouches
    | DuplicateTouches
    | PaintMask
    | SetMask
    | CopyMask
    | DuplicatePass
    | SwitchStage
    | BringPasses
    | ApplyRoutine
    | ReturnToTake,
    Field(discriminator="op"),
]


class Seen(Strict):
    """The view that the window shows, so that its changed part can be computed early."""

    x: float
    y: float
    scale: float
    width: int
    height: int


class GestureIn(Strict):
    """A finished gesture, made on the state of ``revision``."""

    revision: int
    operation: Operation
    seen: Seen | None = None


class StepIn(Strict):
    """Go to a place in the history: so many entries in force."""

    revision: int
    to: int
    seen: Seen | None = None


class RepeatOut(Schema):
    """A touch that repeats its source; ``likeness`` up to 1."""

    touch_id: str
    likeness: float


class WorkOut(Schema):
    """How much of a long computation is done, 0..1; null where there is none."""

    done: float | None


class HistoryEntryOut(Schema):
    number: int
    label: str
    region: list[int]
    created_at: datetime


class TakeIn(Strict):
    name: Annotated[str, Field(max_length=400)]


class TakeOut(Schema):
    """A named state of a portrait."""

    id: str
    name: str
    created_at: datetime


class ChangeStop(Schema):
    """A colour (red, green, blue, 0..255) of the view of changes, and its CIEDE2000."""

    difference: float
    colour: list[int]


class SampleOut(Schema):
    """A colour of the original: CIELAB, the mean around a place."""

    lab: list[float]


Show = Literal[
    "result", "original", "without", "take", "step", "mask", "tint", "effect", "band", "boosted",
    "change",
]  # fmt: skip


class DraftView(Strict):
    """A view with operations that aren't saved yet."""

    x: float
    y: float
    scale: float
    width: int
    height: int
    operations: list[Operation] = []
    show: Show = "result"
    of: str = ""
    px_per_mm: Annotated[float, Field(ge=0.2, le=300)] = 8
    divide_mm: Annotated[float, Field(ge=0.1, le=20)] = 1
    revision: int | None = None
    window: str | None = None
    number: int = 0


class DeliveryIn(Strict):
    """What to deliver."""

    format: Literal["jpeg", "png", "tiff"] = "jpeg"
    quality: Annotated[int, Field(ge=1, le=100)] = 95
    subsampling: Literal["4:4:4", "4:2:2", "4:2:0"] = "4:4:4"
    bits: Literal[8, 16] | None = None
    long_side: Annotated[int, Field(ge=16, le=60000)] | None = None
    profile: Literal["keep", "srgb"] = "keep"
    keep_metadata: bool = True


class DeliveryOut(Schema):
    id: str
    state: Literal["waiting", "working", "done", "failed", "cancelled"]
    progress: float
    message: str
    file_name: str
    size_bytes: int


class SettingOut(Schema):
    """A declared setting; one that is ``auto`` comes from the face and isn't for the hand."""

    name: str
    title: str
    meaning: str
    type: Literal["number", "switch", "choice"]
    default: Value
    low: float
    high: float
    step: float
    unit: str
    choices: list[str]
    auto: str


class KindOut(Schema):
    """A kind of pass with its declared settings."""

    name: str
    title: str
    meaning: str
    stage: str
    guide: bool
    settings: list[SettingOut]
    touch_settings: list[SettingOut] | None


class RoutineOut(Schema):
    """A routine that ships."""

    name: str
    title: str
    meaning: str


class LimitsOut(Schema):
    """What can be uploaded."""

    most_bytes: int
    most_pixels: int
    formats: list[str]
    trash_days: int


class ZoneOut(Schema):
    """A zone's name and words; ``together`` stands for several zones."""

    name: str
    title: str
    kind: Literal["face", "skin", "feature", "rest", "together"]


class FaceOut(Schema):
    """A face. ``box`` is x, y, width, height; ``irises`` x, y, radius of the right and left eye.

    ``outlines`` of eyes, brows, lips and the face as the mesh has them. All in pixels of the
    original; angles in degrees; ``uncertainty`` of the scale is relative.
    """

    number: int
    title: str
    box: list[float]
    by_hand: bool
    score: float
    yaw: float
    pitch: float
    roll: float
    px_per_mm: float
    uncertainty: float
    pupils_mm: float
    plausible: bool
    scale_source: Literal["iris", "pupils", "hand"]
    irises: list[list[float]]
    outlines: list[list[Point]]


class PlaceOut(Schema):
    """A zone of a face: its extent, and how many touches of which strength (0..1) lie in it."""

    zone: str
    face: int
    rect: list[int]
    touches: int
    strength: float


class MarkOut(Schema):
    """A mark; ``touch_id`` names the touch of the user's decision, ``cleared`` that it is healed."""

    id: str
    face: int
    zone: str
    x: float
    y: float
    radius: float
    reach: float
    kind: Literal["red", "dark", "light", "raised"]
    contrast: float
    blood: float
    confidence: float
    proposal: Literal["clear", "keep", "ask"]
    decision: Literal["clear", "keep", "ask"]
    touch_id: str | None
    cleared: bool


class AnalysisOut(Schema):
    """What is known of a portrait's faces, and how far the looking has come."""

    state: Literal["waiting", "working", "done", "failed"]
    share: float
    doing: str
    faces: list[FaceOut] = []
    places: list[PlaceOut] = []
    marks: list[MarkOut] = []
    missed: list[list[float]] = []
    seen: list[str] = []


class ReadingOut(Schema):
    """A zone's fine texture in per cent of the original's, and its median CIEDE2000."""

    zone: str
    texture: float
    change: float


class SweepIn(Strict):
    """Names of the zones that have been shown, with their face: ``0-forehead``."""

    seen: Annotated[list[Annotated[str, Field(max_length=60)]], Field(max_length=500)]
