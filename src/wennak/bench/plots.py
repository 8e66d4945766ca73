"""Plots of a run, as PNG and SVG. The colours can be told apart by the colour-blind (Okabe and Ito 2008)."""

from __future__ import annotations

import importlib.util
import io
from typing import TYPE_CHECKING

from .results import Results
from .summary import MAIN, Summary

if TYPE_CHECKING:
    from matplotlib.figure import Figure

COMMAND = "pip install 'wennak[plots]'"
INK, GRID = "#1c2430", "#c9ced6"
# Points this near in time, as a share of the slowest, and in score would be named over each other.
BESIDE, LEVEL = 0.25, 0.02
METHOD, CANDIDATE = "#0072b2", "#d55e00"
_OUTCOMES = {
    "answered at 1": "#0072b2", "at 2 to 5": "#56b4e9", "not found": "#999999", "cut apart": "#cc79a7",
    "label lost": "#f0e442", "header lost": "#e69f00", "value missing": "#d55e00",
}  # fmt: skip


def plots(results: Results, summary: Summary) -> dict[str, tuple[bytes, bytes]]:
    """Return each plot by name as PNG and as SVG; none where the extra that draws them is not installed."""
    if importlib.util.find_spec("matplotlib") is None:
        return {}
    import matplotlib as mpl
    from matplotlib.figure import Figure

    out = {}
    # Fixed names in the SVG, and text that stays text: the same run gives the same files.
    with mpl.rc_context({"svg.hashsalt": "wennak", "svg.fonttype": "none", "font.size": 10}):
        for name, draw in (
            ("scores", _scores),
            ("cost", _cost),
            ("traits", _traits),
            ("retrieval", _retrieval),
        ):
            figure = Figure(figsize=(7.2, 3.8), layout="constrained")
            if not draw(figure, results, summary):
                continue
            files = []
            for kind in ("png", "svg"):
                data = io.BytesIO()
                figure.savefig(data, format=kind, dpi=110, metadata={"Date": None} if kind == "svg" else {})
                files.append(data.getvalue())
                # What the layout has placed once stays where it is.
                figure.set_layout_engine("none")
            out[name] = (files[0], files[1])
    return out


def _scores(figure: Figure, results: Results, summary: Summary) -> bool:
    axes = figure.subplots()
    methods = summary.methods[::-1]
    for y, m in enumerate(methods):
        mean = m.means[MAIN]
        colour = CANDIDATE if m.kind == "candidate" else METHOD
        if mean.low is not None and mean.high is not None:
            axes.plot([max(0, mean.low), min(1, mean.high)], [y, y], color=colour, linewidth=2)
        axes.plot([mean.mean], [y], "o" if m.kind == "method" else "D", color=colour, markersize=7)
        axes.annotate(f"{mean.mean:.3f}", (mean.mean, y), (0, 7), textcoords="offset points", ha="center")
    axes.set_yticks(range(len(methods)), [m.name for m in methods])
    axes.set(xlabel="score: mean and 95 % interval over documents", ylim=(-0.6, len(methods) - 0.3))
    low = min((m.means[MAIN].low or m.means[MAIN].mean) for m in methods)
    axes.set_xlim(max(0.0, min(low, 0.9) - 0.05), 1.03)
    _plain(axes)
    return True


def _cost(figure: Figure, results: Results, summary: Summary) -> bool:
    timed = [m for m in summary.methods if m.cost.cpu is not None]
    if not timed:
        return False
    axes = figure.subplots()
    points = {m.name: (m.cost.cpu or 0.0, m.means[MAIN].mean) for m in timed}
    slowest = max(cpu for cpu, _ in points.values())
    for name, (cpu, score) in points.items():
        axes.plot(cpu, score, "o", color=METHOD, markersize=8)
        # Of neighbours in time, the better one is named above; before one of its height, to the left.
        others = [at for other, at in points.items() if other != name]
        near = min(others, key=lambda at: abs(at[0] - cpu), default=(0.0, 0.0))
        left = any(0 < at[0] - cpu < BESIDE * slowest and abs(at[1] - score) < LEVEL for at in others)
        place = (-9 if left else 9, 5 if score >= near[1] else -13)
        axes.annotate(name, (cpu, score), place, textcoords="offset points", ha="right" if left else "left")
    axes.set(xlabel="CPU time, ms a page (median of documents)", ylabel="score", xlim=(0, slowest * 1.25))
    axes.margins(y=0.2)
    _plain(axes)
    return True


def _traits(figure: Figure, results: Results, summary: Summary) -> bool:
    rows = [
        (value if kind in value else f"{kind}: {value}", count, by)
        for kind, values in summary.traits.items()
        for value, (count, by) in values.items()
        if len(values) > 1
    ]
    if not rows:
        return False
    names = [m.name for m in summary.methods]
    figure.set_size_inches(7.2, 1.4 + 0.27 * len(rows))
    axes = figure.subplots()
    cells = [[by[name] for name in names] for _, _, by in rows]
    axes.imshow(cells, cmap="cividis", vmin=0, vmax=1, aspect="auto")
    for y, row in enumerate(cells):
        for x, value in enumerate(row):
            axes.text(
                x,
                y,
                f"{value:.2f}",
                ha="center",
                va="center",
                color="#fff" if value < 0.55 else INK,
                fontsize=8,
            )
    axes.set_yticks(range(len(rows)), [f"{label} ({count})" for label, count, _ in rows])
    axes.set_xticks(range(len(names)), names, rotation=20, ha="right")
    axes.tick_params(length=0)
    return True


def _retrieval(figure: Figure, results: Results, summary: Summary) -> bool:
    baselines = [m for m in results.methods if m.kind == "baseline"]
    asked = [m for m in [*(results.method(s.name) for s in summary.methods), *baselines] if m.retrieval]
    if not asked or not asked[0].retrieval or not asked[0].retrieval.questions:
        return False
    axes = figure.subplots()
    for y, m in enumerate(reversed(asked)):
        r = m.retrieval
        assert r is not None
        parts = {"answered at 1": r.answered[1], "at 2 to 5": r.answered[5] - r.answered[1]}
        parts |= {reason: count / r.questions for reason, count in r.lost.items()}
        left = 0.0
        for outcome, colour in _OUTCOMES.items():
            axes.barh(y, parts[outcome], left=left, color=colour, edgecolor="white", linewidth=0.6)
            if parts[outcome] >= 0.06:
                shade = "#fff" if outcome in ("answered at 1", "value missing") else INK
                axes.text(
                    left + parts[outcome] / 2,
                    y,
                    f"{parts[outcome]:.0%}",
                    ha="center",
                    va="center",
                    color=shade,
                    fontsize=8,
                )
            left += parts[outcome]
    axes.set_yticks(range(len(asked)), [m.name for m in reversed(asked)])
    axes.set(xlabel="share of questions", xlim=(0, 1))
    handles = [axes.barh(0, 0, color=colour, label=outcome) for outcome, colour in _OUTCOMES.items()]
    figure.legend(handles=handles, loc="outside upper center", ncols=4, frameon=False, fontsize=8)
    _plain(axes)
    return True


def _plain(axes: object) -> None:
    from matplotlib.axes import Axes

    assert isinstance(axes, Axes)
    axes.spines[["top", "right"]].set_visible(False)
    axes.grid(color=GRID, linewidth=0.6)
    axes.set_axisbelow(True)


_PLOTS = {"scores": _scores, "cost": _cost, "traits": _traits, "retrieval": _retrieval}
