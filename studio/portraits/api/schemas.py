"""The forms the API takes and gives."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from retouch.edit.values import MOST_VALUES, Value
from retouch.work.operations import Operation
from studio.portraits.api.edit_schemas import Change, PassOut, Strict
from studio.portraits.services.view_request import ViewRequest

# An id, or the name of a window or a setting.
Key = Annotated[str, Field(max_length=64)]


class Message(Schema):
    """Every error: a code for programs, a sentence for people."""

    code: str
    message: str
    revision: int | None = None


class PortraitOut(Schema):
    """A portrait as the wall shows it; ``content`` is the SHA-256 of its file."""

    id: str
    name: str
    width: int
    height: int
    bits: int
    format: str
    profile: str
    size_bytes: int
    content: str
    session: str | None
    star: bool
    flag: Literal["", "todo", "again", "done"]
    revision: int
    touched: bool
    created_at: datetime
    worked_at: datetime
    deleted_at: datetime | None


class RenameIn(Strict):
    name: Annotated[str, Field(max_length=400)]


class HistoryOut(Schema):
    """``at`` of ``count`` entries are in force; names of the steps back and forward."""

    at: int
    count: int
    undo: str | None
    redo: str | None


class MovedOut(Schema):
    """Where what is shown comes from before the frame: at nodes ``step`` pixels apart, from (``x``, ``y``) on,
    ``columns`` x ``rows``; ``shifts`` are x and y by rows, little-endian float32 as base64. Beyond the nodes
    nothing is moved. ``key`` names it.
    """

    key: str
    x: float
    y: float
    step: float
    columns: int
    rows: int
    shifts: str


class FrameOut(Schema):
    """The frame of an edit: its size in pixels, and where its places come from.

    ``matrix``: nine numbers, by rows, from homogeneous places of the framed picture to those of the
    original (continuous coordinates, pixel centres at +0.5). ``key`` is empty where the framed
    picture is the original. ``moved``: what passes of Shape move on the way, if anything.
    """

    key: str
    width: int
    height: int
    matrix: list[float]
    moved: MovedOut | None = None


class FramingIn(Strict):
    """Settings of a frame that isn't saved yet, and whose face it is to suit."""

    settings: Annotated[dict[Key, Value], Field(max_length=MOST_VALUES)] = {}
    face: Annotated[int, Field(ge=0, le=1000)] = 0


class FramingOut(Schema):
    """How a frame comes out.

    ``plane``: nine numbers from the plane (the picture straightened about its middle, which is the
    origin) to the original; ``rect``: the frame on the plane, x0, y0, x1, y1, before quarter turns.
    """

    frame: FrameOut
    plane: list[float]
    rect: list[float]


class CutOut(Schema):
    """A frame that suits a face; ``fits``: the picture is large enough for it."""

    name: str
    title: str
    meaning: str
    settings: dict[str, Value]
    fits: bool


class LevelIn(Strict):
    """What the picture is to be levelled by."""

    by: Literal["eyes", "lines"]
    face: Annotated[int, Field(ge=0, le=1000)] = 0


class LevelOut(Schema):
    """Degrees clockwise."""

    angle: float


class DeskOut(Schema):
    """A portrait opened on the bench. ``faces`` names the analysis that its edit hangs on; empty: of none."""

    portrait: PortraitOut
    faces: str = ""
    frame: FrameOut
    passes: list[PassOut]
    history: HistoryOut
    # What of the stored edit can't be used and is left aside, in words.
    left: list[str] = []


class PixelsOut(Schema):
    """A part of a view, as in `get_view`: a JPEG in base64. ``nearly``: passes that look around themselves don't
    know of the change yet; the changed part is to be asked for."""

    x: float
    y: float
    scale: float
    width: int
    height: int
    jpeg: str
    nearly: bool = False


class OutcomeOut(Schema):
    """What a gesture did. ``dirty`` is x0, y0, x1, y1 in pixels of the framed picture.

    ``frame`` is None where it is as before. ``pixels`` are the changed part of the view that the window shows, if
    they are there already.
    """

    revision: int
    changes: list[Change]
    dirty: list[int]
    touch_id: str | None
    pass_id: str | None = None
    notice: str | None = None
    history: HistoryOut
    worked_at: datetime
    frame: FrameOut | None = None
    pixels: PixelsOut | None = None


class Seen(Strict):
    """The view that the window shows, so that its changed part can be computed early; or may show next."""

    x: float
    y: float
    scale: float
    width: int
    height: int

    def request(self) -> ViewRequest:
        """Its result, asked for."""
        return ViewRequest(self.x, self.y, self.scale, self.width, self.height)


class GestureIn(Strict):
    """A finished gesture, made on the state of ``revision``."""

    revision: int
    operation: Operation
    seen: Seen | None = None
    # It goes on with the gesture just before it, such as a key pressed again: one step together.
    goes_on: bool = False


class ReadyIn(Strict):
    """What a hand is about to do in a view: move a slider of a pass, paint on its mask, or look there next."""

    pass_id: Key = ""
    hand: Literal["slider", "stroke", "look"]
    seen: Seen
    window: Key | None = None
    number: int = 0


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
    """A named state of a portrait; ``step``: at which step of the history it was kept, where that is known."""

    id: str
    name: str
    created_at: datetime
    step: int | None


class ChangeStop(Schema):
    """A colour (red, green, blue, 0..255) of the view of changes, and its CIEDE2000."""

    difference: float
    colour: list[int]


class SampleOut(Schema):
    """A colour: CIELAB, the mean around a place, and its hue as picked colours count it."""

    lab: list[float]
    hue: float


class SpreadOut(Schema):
    """Where the tones of the face, hair, clothing or background lie: encoded luma 0..1."""

    part: str
    low: float
    middle: float
    high: float


class SkinOut(Schema):
    """The skin of a face: CIELAB hue angle, individual typology angle, and its class."""

    face: int
    hue: float
    ita: float
    kind: str


class TonesOut(Schema):
    """Readings of the result; ``before``: of the skin as it was photographed."""

    spreads: list[SpreadOut]
    skins: list[SkinOut]
    before: list[SkinOut]


Show = Literal[
    "result", "original", "without", "take", "step", "mask", "tint", "effect", "band", "boosted",
    "change", "clipped", "proof", "gamut",
]  # fmt: skip


class DraftView(Strict):
    """A view with operations that aren't saved yet."""

    x: float
    y: float
    scale: float
    width: int
    height: int
    operations: Annotated[list[Operation], Field(max_length=20)] = []
    show: Show = "result"
    of: Annotated[str, Field(max_length=200)] = ""
    unframed: bool = False
    px_per_mm: Annotated[float, Field(ge=0.2, le=300)] = 8
    divide_mm: Annotated[float, Field(ge=0.1, le=20)] = 1
    revision: int | None = None
    window: Key | None = None
    number: int = 0


Lightness = Annotated[float, Field(ge=0, le=100)]
Chroma = Annotated[float, Field(ge=-128, le=128)]


class DeliveryIn(Strict):
    """What to deliver.

    The size is the least of those given: ``long_side`` in pixels, ``megapixels``, or ``print_cm`` of the
    longer side at ``per_inch`` pixels; pictures aren't enlarged. ``border`` is in per cent of the longer side.
    ``profile`` is ``keep``, ``srgb`` or the id of one (list_profiles). ``name`` is a pattern of {portrait},
    {date}, {preset} and {number}. ``credentials``: signed content credentials go into JPEG, PNG, TIFF, WebP, AVIF.
    """

    format: Literal["jpeg", "png", "tiff", "webp", "avif", "jxl", "ora"] = "jpeg"
    quality: Annotated[int, Field(ge=1, le=100)] = 95
    subsampling: Literal["4:4:4", "4:2:2", "4:2:0"] = "4:4:4"
    bits: Literal[8, 16] | None = None
    long_side: Annotated[int, Field(ge=16, le=60000)] | None = None
    megapixels: Annotated[float, Field(ge=0.01, le=1000)] | None = None
    print_cm: Annotated[float, Field(ge=0.5, le=2000)] | None = None
    per_inch: Annotated[float, Field(ge=10, le=2400)] = 300.0
    border: Annotated[float, Field(ge=0.1, le=50)] | None = None
    border_lab: tuple[Lightness, Chroma, Chroma] = (100.0, 0.0, 0.0)
    profile: Annotated[str, Field(max_length=32)] = "keep"
    intent: Literal["perceptual", "relative", "saturation", "absolute"] = "relative"
    black_point: bool = True
    keep_metadata: bool = True
    keep_place: bool = False
    tell: bool = True
    sharpen: Literal["none", "screen", "print"] = "none"
    most_bytes: Annotated[int, Field(ge=10_000, le=2_000_000_000)] | None = None
    name: Annotated[str, Field(max_length=200)] = ""
    packing: Literal["deflate", "lzw", "zstd"] = "deflate"
    credentials: bool = False
    preset: Annotated[str, Field(max_length=60)] = ""
    number: Annotated[int, Field(ge=1, le=100_000)] = 1


class DisclosedOut(Schema):
    """One thing that was done, with its numbers."""

    group: str
    said: str
    numbers: dict[str, float]


class RuleOut(Schema):
    """A rule on retouched pictures, as remembered, and whether it would ask here."""

    rule: str
    about: str
    asks: bool
    because: str


class DisclosureOut(Schema):
    """What was done to the people in a picture; ``text`` says it in one line."""

    lines: list[DisclosedOut]
    rules: list[RuleOut]
    caption: str
    limits: str
    text: str


class DeliveryOut(Schema):
    id: str
    state: Literal["waiting", "working", "done", "failed", "cancelled"]
    progress: float
    message: str
    file_name: str
    size_bytes: int


class SettingOut(Schema):
    """A declared setting; those of one ``group`` belong together, ``pair`` is that of the other side.

    One with ``when`` counts only while another setting has one of some values.
    """

    name: str
    title: str
    meaning: str
    type: Literal["number", "switch", "choice", "curve", "picture"]
    default: Value
    low: float
    high: float
    step: float
    unit: str
    choices: list[str]
    group: str
    pair: str
    when: tuple[str, list[str]] | None


class KindOut(Schema):
    """A kind of pass, with everything that is declared of it.

    ``way`` tells how it works; a ``guide`` changes no pixel, a ``frame`` is geometry,
    ``develop`` how a raw file is developed; ``framed`` acts on the framed picture, a ``shape`` moves parts of it. ``sourced``: its touches take from
    another place; ``fitted``: what the face gives to it; ``finds``: it acts only in places that it
    finds, which can be shown; ``reads``: it tells of itself in numbers; ``by_side``: it is for one person,
    and may act on one side of the face alone;
    ``meshed``: it moves parts of one person's face.
    """

    name: str
    title: str
    meaning: str
    stage: str
    way: Literal["touches", "guide", "pixels", "curve", "frame", "develop", "framed", "shape"]
    guide: bool
    sourced: bool
    finds: bool
    reads: bool
    by_side: bool
    meshed: bool
    fitted: list[str]
    settings: list[SettingOut]
    touch_settings: list[SettingOut] | None


class LookOut(Schema):
    """A ready look: a set of passes of the stage Finish."""

    name: str
    title: str
    meaning: str


class LimitsOut(Schema):
    """What can be uploaded."""

    most_bytes: int
    most_pixels: int
    formats: list[str]
    trash_days: int


class WayOut(Schema):
    """Where a need is served. ``go``: pass:KIND, pass:KIND.SETTING, hand:NAME, panel:STAGE/NAME, routine:NAME,
    action:NAME or page:PATH; ``panel``: what is to be opened for it, as STAGE/NAME.
    """

    go: str
    title: str
    meaning: str
    stage: str
    panel: str
