"""Data written by earlier versions, brought to today's form."""

from __future__ import annotations

from typing import Any

from retouch.passes import registry


def upgraded_pass(data: Any) -> Any:
    """A pass with what the face gave to it apart from its settings, and everyone's zones unnamed.

    Version 1 kept the scale and the colours among the settings, and wrote -1 for everyone. What
    is in today's form, or in none at all, stays as it is.
    """
    if not isinstance(data, dict):
        return data
    data = dict(data)
    settings, kind = data.get("settings"), registry.find(data.get("kind"))
    if kind is not None and isinstance(settings, dict):
        fitted = {s.name for s in kind.fitted} & settings.keys()
        if fitted:
            fit = data.get("fit")
            fit = dict(fit) if isinstance(fit, dict) else {}
            values = fit.get("values")
            fit["values"] = {
                **{n: settings[n] for n in sorted(fitted)},
                **(values if isinstance(values, dict) else {}),
            }
            data["fit"] = fit
            data["settings"] = {n: v for n, v in settings.items() if n not in fitted}
    mask = data.get("mask")
    if isinstance(mask, dict) and isinstance(mask.get("areas"), list):
        data["mask"] = {**mask, "areas": [_upgraded_area(a) for a in mask["areas"]]}
    return data


def _upgraded_area(area: Any) -> Any:
    if isinstance(area, dict) and type(area.get("face")) is int and area["face"] == -1:
        return {**area, "face": None}
    return area


def upgraded(data: Any) -> Any:
    """An edit of any version that can be read, in today's form; anything else stays as it is."""
    if not isinstance(data, dict):
        return data
    out = dict(data)
    if type(out.get("version")) is int and out["version"] == 1:
        out["version"] = 2
    if isinstance(out.get("passes"), list):
        out["passes"] = [upgraded_pass(p) for p in out["passes"]]
    return out
