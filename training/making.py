"""Samples for the parser: canvases of varied people with the class of each pixel.

    python -m training.making FOLDER OUT.npz [--copies N] [--seed S] NAME…

FOLDER holds NAME_raw.png, NAME_labels.png and NAME_alpha.png of each person.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face.canvas import CHANNELS, SIDE, UNIT, lay, placed
from retouch.face.find import Face, find_faces
from training.varied import OF_LABEL, Person, varied

# Classes outside of the picture, and of what isn't scored.
NOTHING = 255


def load(folder: Path, name: str) -> tuple[Person, Face] | None:
    """A person and its face; None where no face is found."""
    pixels = cv2.cvtColor(cv2.imread(str(folder / f"{name}_raw.png")), cv2.COLOR_BGR2RGB)
    labels = cv2.imread(str(folder / f"{name}_labels.png"), cv2.IMREAD_GRAYSCALE)
    classes = OF_LABEL[labels]
    alpha = cv2.imread(str(folder / f"{name}_alpha.png"), cv2.IMREAD_GRAYSCALE)
    if alpha is None:
        alpha = cv2.GaussianBlur((classes > 0).astype(np.uint8) * 255, (0, 0), 1.0)
    faces = find_faces(pixels)
    if not faces:
        return None
    return Person(pixels, classes, alpha.astype(np.float32) / 255, faces[0].points[:, :2]), faces[0]


def jittered(face: Face, rng: np.random.Generator) -> NDArray[np.float64]:
    """The place of a face on the canvas, moved, turned and sized by chance."""
    unit = UNIT * np.exp(rng.normal(0, 0.1))
    if rng.random() < 0.25:
        unit = UNIT * rng.uniform(0.35, 0.9)
    matrix = placed(face, unit)
    angle = np.radians(rng.normal(0, 6))
    c, s = np.cos(angle), np.sin(angle)
    turn = np.array([[c, -s], [s, c]])
    about = np.array([0.5, 0.36]) * SIDE
    move = rng.normal(0, 6, 2)
    out = np.empty((2, 3))
    out[:, :2] = turn @ matrix[:, :2]
    out[:, 2] = turn @ (matrix[:, 2] - about) + about + move
    return out


def sample(
    person: Person, face: Face, rng: np.random.Generator
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """One canvas: clues as bytes (CHANNELS, SIDE, SIDE) and classes (SIDE, SIDE)."""
    pixels, classes = varied(person, rng)
    h, w = classes.shape
    if rng.random() < 0.25:
        # A tight crop: the picture ends close to the face.
        x, y, width, height = face.box
        x0 = int(max(x - rng.uniform(-0.05, 0.8) * width, 0))
        x1 = int(min(x + width + rng.uniform(-0.05, 0.8) * width, w))
        y0 = int(max(y - rng.uniform(-0.1, 0.5) * height, 0))
        y1 = int(min(y + height + rng.uniform(-0.05, 1.2) * height, h))
        pixels, classes = pixels[y0:y1, x0:x1], classes[y0:y1, x0:x1]
        moved = face.points - np.array([x0, y0, 0], np.float32)
        face = Face(moved, face.score, face.pose, face.right_iris, face.left_iris, face.scale)
    matrix = jittered(face, rng)
    canvas = lay(np.ascontiguousarray(pixels), face, matrix)
    warp = matrix.copy()
    warp[:, 2] += 0.5 * warp[:, 0] + 0.5 * warp[:, 1] - 0.5
    shares = [
        cv2.warpAffine((classes == k).astype(np.float32), warp, (SIDE, SIDE)) for k in range(6)
    ]
    found = np.argmax(shares, 0).astype(np.uint8)
    found[canvas.clues[11] < 0.5] = NOTHING
    return np.clip(canvas.clues * 63.5 + 127.5, 0, 255).astype(np.uint8), found


def main() -> None:
    """Make samples of the people named."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("folder", type=Path)
    options.add_argument("out", type=Path)
    options.add_argument("names", nargs="+")
    options.add_argument("--copies", type=int, default=12)
    options.add_argument("--seed", type=int, default=1)
    given = options.parse_args()
    clues, classes, whose = [], [], []
    for n, name in enumerate(given.names):
        found = load(given.folder, name)
        if found is None:
            print(f"{name}: no face", flush=True)
            continue
        rng = np.random.default_rng([given.seed, n, *name.encode()])
        for _ in range(given.copies):
            a, b = sample(*found, rng)
            clues.append(a)
            classes.append(b)
            whose.append(name)
    assert clues[0].shape == (CHANNELS, SIDE, SIDE)
    np.savez(given.out, clues=np.stack(clues), classes=np.stack(classes), whose=np.array(whose))


if __name__ == "__main__":
    main()
