"""The parser's network, its fitting and its export.

    python -m training.net SAMPLES.npz… --out parser.onnx [--epochs N] [--resume STATE.pt]

Needs torch and onnx, which the program itself doesn't (training/README.md).
"""

from __future__ import annotations

import argparse
import time
from pathlib import Path

import numpy as np
import onnx
import torch
from numpy.typing import NDArray
from torch import Tensor, nn
from torch.nn import functional

CLASSES = 6
NOTHING = 255
# Rare classes count for more.
_WEIGHTS = (1.0, 1.0, 1.3, 2.0, 1.2, 2.0)
# The channel that tells left from right, and that of the person, left out now and then.
_ACROSS, _PERSON, _ALIKE = 8, 6, 4


def _conv(a: int, b: int, step: int = 1, wide: int = 1) -> nn.Sequential:
    return nn.Sequential(
        nn.Conv2d(a, b, 3, step, wide, wide, bias=False), nn.BatchNorm2d(b), nn.ReLU(inplace=True)
    )


class Parser(nn.Module):
    """A small U-shaped network (O. Ronneberger, P. Fischer, T. Brox, *U-Net*, MICCAI 2015)."""

    def __init__(self, channels: int = 12) -> None:
        super().__init__()
        self.stem = nn.Sequential(_conv(channels, 24, 2), _conv(24, 24))
        self.one = nn.Sequential(_conv(24, 48, 2), _conv(48, 48), _conv(48, 48))
        self.two = nn.Sequential(_conv(48, 96, 2), _conv(96, 96), _conv(96, 96))
        self.three = nn.Sequential(_conv(96, 128, 2), _conv(128, 128), _conv(128, 128))
        self.four = nn.Sequential(
            _conv(128, 160, 2), _conv(160, 160, 1, 2), _conv(160, 160, 1, 3), _conv(160, 128)
        )
        self.up_three = _conv(256, 96)
        self.up_two = _conv(192, 64)
        self.up_one = nn.Sequential(_conv(112, 48), _conv(48, 40))
        self.up_stem = nn.Sequential(_conv(64, 32), _conv(32, 24))
        self.last = nn.Sequential(_conv(24 + channels, 16), nn.Conv2d(16, CLASSES, 1))

    def forward(self, x: Tensor) -> Tensor:
        stem = self.stem(x)
        one = self.one(stem)
        two = self.two(one)
        three = self.three(two)
        y = self.up_three(torch.cat([_up(self.four(three)), three], 1))
        y = self.up_two(torch.cat([_up(y), two], 1))
        y = self.up_one(torch.cat([_up(y), one], 1))
        y = self.up_stem(torch.cat([_up(y), stem], 1))
        return self.last(torch.cat([_up(y), x], 1))


def _up(x: Tensor) -> Tensor:
    return functional.interpolate(x, scale_factor=2.0, mode="bilinear", align_corners=False)


def loss_of(scores: Tensor, classes: Tensor) -> Tensor:
    """Cross entropy and the part that overlaps amiss (F. Milletari et al., *V-Net*, 2016)."""
    weights = torch.tensor(_WEIGHTS)
    entropy = functional.cross_entropy(
        scores, classes, weights, ignore_index=NOTHING, label_smoothing=0.02
    )
    known = (classes != NOTHING)[:, None]
    truth = functional.one_hot(classes.clamp(max=CLASSES - 1), CLASSES).permute(0, 3, 1, 2)
    chance = scores.softmax(1) * known
    truth = truth * known
    both = (chance * truth).sum((0, 2, 3))
    overlap = (2 * both + 50) / (chance.sum((0, 2, 3)) + truth.sum((0, 2, 3)) + 50)
    return entropy + 0.5 * (1 - overlap).mean()


def batches(
    clues: NDArray[np.uint8], classes: NDArray[np.uint8], size: int, rng: np.random.Generator
) -> list[NDArray[np.int64]]:
    """Numbers of the samples of each batch, in a new order."""
    order = rng.permutation(len(clues))
    return [order[i : i + size] for i in range(0, len(order) - size + 1, size)]


def prepared(
    clues: NDArray[np.uint8], classes: NDArray[np.uint8], rng: np.random.Generator
) -> tuple[Tensor, Tensor]:
    """A batch as numbers; mirrored by chance, the outline of the person left out by chance."""
    x = torch.from_numpy(clues.astype(np.float32))
    x = (x - 127.5) / 63.5
    y = torch.from_numpy(classes.astype(np.int64))
    for n in range(len(x)):
        if rng.random() < 0.5:
            x[n], y[n] = x[n].flip(2), y[n].flip(1)
            x[n, _ACROSS] = -x[n, _ACROSS]
        if rng.random() < 0.12:
            x[n, _PERSON] = float(rng.random())
        if rng.random() < 0.1:
            x[n, _ALIKE] = x[n, _ALIKE].clamp(0, 2) ** float(rng.uniform(0.3, 3))
    return x, y


def overlaps(net: Parser, clues: NDArray[np.uint8], classes: NDArray[np.uint8]) -> list[float]:
    """Intersection over union of each class."""
    both, either = np.zeros(CLASSES), np.zeros(CLASSES)
    net.eval()
    with torch.inference_mode():
        for i in range(0, len(clues), 8):
            x = torch.from_numpy(clues[i : i + 8].astype(np.float32))
            found = net((x - 127.5) / 63.5).argmax(1).numpy()
            truth = classes[i : i + 8]
            known = truth != NOTHING
            for k in range(CLASSES):
                a, b = (found == k) & known, (truth == k) & known
                both[k] += (a & b).sum()
                either[k] += (a | b).sum()
    net.train()
    return [float(v) for v in both / np.maximum(either, 1)]


def main() -> None:
    """Fit on samples and write the network."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("samples", type=Path, nargs="+")
    options.add_argument("--out", type=Path, required=True)
    options.add_argument("--epochs", type=int, default=4)
    options.add_argument("--rate", type=float, default=2e-3)
    options.add_argument("--batch", type=int, default=8)
    options.add_argument("--left-out", type=Path)
    options.add_argument("--resume", type=Path)
    options.add_argument(
        "--mean-with", type=Path, help="weights to take the mean of the last ones with"
    )
    given = options.parse_args()
    files = [np.load(path) for path in given.samples]
    clues = np.concatenate([f["clues"] for f in files])
    classes = np.concatenate([f["classes"] for f in files])
    out = np.load(given.left_out) if given.left_out else None
    torch.manual_seed(1)
    rng = np.random.default_rng(1)
    net = Parser(clues.shape[1]).to(memory_format=torch.channels_last)
    if given.resume:
        net.load_state_dict(torch.load(given.resume))
    steps = given.epochs * (len(clues) // given.batch)
    moves = torch.optim.AdamW(net.parameters(), lr=given.rate, weight_decay=1e-3)
    pace = torch.optim.lr_scheduler.OneCycleLR(moves, given.rate, total_steps=steps, pct_start=0.1)
    for epoch in range(given.epochs):
        start, total = time.perf_counter(), 0.0
        order = batches(clues, classes, given.batch, rng)
        for n, chosen in enumerate(order):
            x, y = prepared(clues[chosen], classes[chosen], rng)
            x = x.contiguous(memory_format=torch.channels_last)
            loss = loss_of(net(x), y)
            moves.zero_grad()
            loss.backward()
            moves.step()
            pace.step()
            total += loss.item()
            if n % 50 == 49:
                print(
                    f"  {n + 1}/{len(order)} {total / (n + 1):.3f} {time.perf_counter() - start:.0f} s",
                    flush=True,
                )
        line = (
            f"epoch {epoch + 1}: loss {total / len(order):.3f}, {time.perf_counter() - start:.0f} s"
        )
        if out is not None:
            line += " " + " ".join(f"{v:.3f}" for v in overlaps(net, out["clues"], out["classes"]))
        print(line, flush=True)
        torch.save(net.state_dict(), given.out.with_suffix(".pt"))
    if given.mean_with:
        net.load_state_dict(mean(net.state_dict(), torch.load(given.mean_with)))
        torch.save(net.state_dict(), given.out.with_suffix(".pt"))
    export(net, given.out, clues.shape[1:])


def mean(one: dict[str, Tensor], other: dict[str, Tensor]) -> dict[str, Tensor]:
    """Two states of a network, of which one was fitted on from the other, half and half.

    P. Izmailov et al., *Averaging Weights Leads to Wider Optima and Better Generalization* (2018).
    """
    return {
        name: (value + other[name]) / 2 if value.is_floating_point() else value
        for name, value in one.items()
    }


def export(net: Parser, path: Path, shape: tuple[int, ...]) -> None:
    """Write the network as ONNX, with chances instead of scores, its numbers in half precision.

    OpenCV turns them into single ones as it reads them; answers differ by less than a thousandth.
    """
    whole = nn.Sequential(net, nn.Softmax(1)).eval().to(memory_format=torch.contiguous_format)
    torch.onnx.export(whole, (torch.zeros(1, *shape),), str(path), opset_version=13, dynamo=False)
    model = onnx.load(str(path))
    for one in model.graph.initializer:
        if one.data_type == onnx.TensorProto.FLOAT:
            half = onnx.numpy_helper.to_array(one).astype(np.float16)
            one.CopyFrom(onnx.numpy_helper.from_array(half, one.name))
    onnx.save(model, str(path))


if __name__ == "__main__":
    main()
