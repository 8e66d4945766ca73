"""Fit what judges tables: python tools/fit_judge.py TRUTH... [--anew | --only-confidence | --pictures] ...

TRUTH are folders of PDFs with checked truth (NAME.html beside NAME.pdf, as `wennak truth` makes it); the
repository's own are drawn by tools/draw_documents.py. Every page is read in every way that is worth
comparing, each reading compared with its truth, and three sums of boosted trees are fitted: how similar
a reading is to a true table, how likely it is the best reading of its table (data/judge.npz), and, on one
document in four that the other two never see, how likely a cell is right (data/confidence.npz). The judge
as it is now says which readings are worth comparing; with --anew a plain guess does so for the first half of
the documents, as it has to where features have changed. With --beside the mean of what was fitted and of the
judge in FILE is written. With --only-confidence the judge stays, and confidence is fitted on all documents,
which must be others than those of the judge. With --pictures only the judge of pages that are pictures is
fitted (data/judge-pictures.npz), on all such pages. Documents whose name holds --leave-out are not fitted on,
but scored at the end. Each folder is a source of its own: how sure to be is told by sources not fitted on.

Needs the extra `fit`: scikit-learn is loaded where something is fitted, and only there. What is fitted is
evaluated with NumPy alone.
"""

from __future__ import annotations

import argparse
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
from scipy.optimize import minimize

from wennak.bench.grid import grid_of, normal
from wennak.bench.matching import match
from wennak.bench.parts import part_of
from wennak.bench.readings import Observed, layouts_of, observe, true_parts, with_joined_signs
from wennak.errors import SourceError
from wennak.ink import PdfFile
from wennak.tables import FEATURES, confidence, find_method, finished
from wennak.tables.judge import judge, judge_of
from wennak.tables.trees import PARTS, read_sums, write_sums
from wennak.truth import find_truth, load_truth

DATA = Path(__file__).parent.parent / "src/wennak/tables/data"
# A reading this near (content similarity and exactness, weighed) to the best of its table is one of the best.
AS_GOOD = 0.004
EXACT = 0.3
# A true part is where it was sought when a reading there is this similar.
PLACED = 0.5
# So many readings of a page are compared.
READINGS = 120
# Tables with more readings than this weigh as much as one with so many.
EVEN = 20
# Confidence is fitted on one in so many documents, the judge on the others.
APART = 4
# Cells of a document beyond this number are left out: long tables teach no more than short ones.
CELLS = 400

Array = np.ndarray[Any, np.dtype[np.float64]]
# What makes readings of a document and compares them.
Work = Callable[[Path], list[Observed]]
# What a file of data says of itself, and its sums.
Kept = tuple[dict[str, Any], list[dict[str, Any]]]


def main() -> None:
    """Observe, fit, write, and say how good it is."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("truth", nargs="+", type=Path)
    parser.add_argument("--anew", action="store_true")
    parser.add_argument("--only-confidence", action="store_true")
    parser.add_argument("--pictures", action="store_true")
    parser.add_argument("--beside", type=Path)
    parser.add_argument("--leave-out", default="")
    parser.add_argument("--workers", type=int, default=2)
    options = parser.parse_args()
    source = {t.path: k for k, folder in enumerate(options.truth) for t in find_truth(folder)}
    rest = [p for p in source if options.leave_out and options.leave_out in str(p)]
    kept = [p for p in source if p not in rest]
    print(f"{len(kept)} documents to fit on, {len(rest)} left out")
    if options.pictures:
        pages = [p for s in observed(kept, _by_plain_judge, options.workers) for p in s if p.picture]
        write_judge("judge-pictures.npz", pages, len(kept))
        return
    # What a judge was fitted on it reads better than all else: confidence is learnt from other documents.
    apart = kept if options.only_confidence else kept[::APART]
    known = [path for path in kept if path not in apart]
    if known:
        _fit_judge(known, options)
    cells = list(parallel(cells_of, apart, options.workers))
    model, line = fit_cells(cells), calibration(cells, [source[path] for path in apart])
    count = sum(len(y) for _, y in cells)
    write("confidence.npz", confidence.FEATURES, [model], line, documents=len(apart), cells=count)
    if rest:
        report([p for s in observed(rest, _judged, options.workers) for p in s])


def _fit_judge(known: Sequence[Path], options: argparse.Namespace) -> None:
    """Observe, fit and write the judge; `options` are those of the command."""
    before = read(options.beside) if options.beside else None
    pages: list[Observed] = []
    parts = ((known[::2], _guessed), (known[1::2], _judged)) if options.anew else ((known, _judged),)
    for part, work in parts:
        pages += [p for s in observed(part, work, options.workers) for p in s]
        write_judge("judge.npz", pages, len(known))
    if before:
        average("judge.npz", before)


def write_judge(name: str, pages: Sequence[Observed], documents: int) -> None:
    """Fit a judge on some pages, and write it."""
    placed = [page for page in pages if is_placed(page)]
    readings = sum(len(page.seen) for page in placed)
    write(name, FEATURES, fit_judge(placed), documents=documents, readings=readings)


def is_placed(page: Observed) -> bool:
    """Whether each part of a true table was read somehow on the page where it was sought: one of few words
    may have been sought on a wrong page, and would teach that tables are text.
    """
    own = [page.similar[page.table == part] for part in range(len(page.parts))]
    return all(len(similar) and similar.max() >= PLACED for similar in own)


def observed(paths: Sequence[Path], work: Work, workers: int) -> list[list[Observed]]:
    """All readings of the documents, by a plain guess or by a judge as it is now."""
    return list(parallel(work, paths, workers))


def parallel(work: Any, items: Sequence[Any], workers: int) -> Iterator[Any]:
    """The results of some work on each item, in order."""
    with ProcessPoolExecutor(workers) as pool:
        yield from pool.map(work, items, chunksize=4)


def _guessed(path: Path) -> list[Observed]:
    return _observed(path, lambda _: guess)


def _judged(path: Path) -> list[Observed]:
    return _observed(path, judge_of)


def _by_plain_judge(path: Path) -> list[Observed]:
    return _observed(path, lambda _: judge)


def _observed(path: Path, by: Any) -> list[Observed]:
    truth = load_truth(path)
    try:
        return observe(truth.pdf, truth, by, READINGS) if truth.pdf else []
    except SourceError as error:
        print(f"{path}: {error}")
        return []


def guess(seen: Array) -> Array:
    """A plain guess of what readings gain, before anything is fitted."""
    at = {name: k for k, name in enumerate(FEATURES)}

    def of(name: str) -> Array:
        return seen[:, at[name]]

    out: Array = (
        0.5 + 0.3 * of("fill") + 0.2 * of("kinds") - 2 * of("crossed") - 0.5 * of("align").clip(0, 1)
        - 0.5 * of("prose") + 0.1 * of("gutter").clip(0, 2) - 0.6 * of("lines_inside") + 0.3 * of("drawn")
        - 0.3 * (of("above_parts") > 1) - 0.3 * (of("below_parts") > 1)
    )  # fmt: skip
    return out


def fit_judge(pages: Sequence[Observed]) -> list[Any]:
    """Fit the two sums of the judge: similarity, and being the best of one's table."""
    from sklearn.ensemble import HistGradientBoostingClassifier, HistGradientBoostingRegressor

    pages = [p for p in pages if len(p.seen)]
    seen = np.concatenate([p.seen for p in pages])
    similar = np.concatenate([p.similar for p in pages])
    exact = np.concatenate([p.exact for p in pages])
    words = np.concatenate([p.words for p in pages])
    best, weight = best_of(pages, (1 - EXACT) * similar + EXACT * exact)
    common: dict[str, Any] = {
        "max_leaf_nodes": 24,
        "max_depth": 8,
        "l2_regularization": 1.0,
        "random_state": 0,
    }
    alike = HistGradientBoostingRegressor(max_iter=160, learning_rate=0.08, min_samples_leaf=30, **common)
    likely = HistGradientBoostingClassifier(max_iter=220, learning_rate=0.08, min_samples_leaf=20, **common)
    return [alike.fit(seen, similar, np.sqrt(words)), likely.fit(seen, best, weight)]


def best_of(pages: Sequence[Observed], worth: Array) -> tuple[Array, Array]:
    """Which readings are among the best of their table, and how much each counts."""
    best, weight = np.zeros(len(worth)), np.ones(len(worth))
    start = 0
    for page in pages:
        end = start + len(page.table)
        for table in set(page.table.tolist()) - {-1}:
            own = start + np.flatnonzero(page.table == table)
            top = worth[own].max()
            best[own] = (worth[own] >= top - AS_GOOD) & (top > 0.5)
            weight[own] = 3 * EVEN / max(EVEN, len(own))
        start = end
    return best, weight


def cells_of(path: Path) -> tuple[Array, Array]:
    """Features of the cells that `combined` reads in a document, and which of them are right."""
    truth = load_truth(path)
    xs, ys = [np.empty((0, len(confidence.FEATURES)))], [np.empty(0)]
    if truth.pdf is None:
        return xs[0], ys[0]
    tables = [with_joined_signs(entry.table) for entry in truth.tables if entry.table.rows]
    with PdfFile(truth.pdf, truth.pdf.name) as file:
        layouts = layouts_of(file)
    parts = true_parts(tables, layouts)
    for page, layout in enumerate(layouts):
        drafts = find_method("combined")(layout) if len(layout.words) else []
        read = [grid_of(with_joined_signs(finished(d, layout))) for d in drafts]
        known = [
            [grid_of(part_of(tables[k], a, b, h)) for h in ({0, 1, 2, tables[k].header_rows} if a else {0})]
            for k, a, b in parts.get(page, [])
        ]
        partner = {j: i for i, j in match([k[0] for k in known], read).pairs.items()}
        for j, draft in enumerate(drafts):
            true = [set(grid.cells) for grid in known[partner[j]]] if j in partner else [set()]
            own = set(read[j].cells)
            cells = max(true, key=lambda t: len(t & own))
            rows = sorted({r for c in draft.cells if c.words for r in range(c.row, c.row + c.rowspan)})
            columns = sorted(
                {k for c in draft.cells if c.words for k in range(c.column, c.column + c.colspan)}
            )
            texts = {(c.row, c.column): c.text for c in with_joined_signs(finished(draft, layout)).cells}
            right = [
                (
                    rows.index(c.row),
                    columns.index(c.column),
                    c.rowspan,
                    c.colspan,
                    normal(texts.get((c.row, c.column), "")),
                )
                in cells
                for c in draft.cells
                if c.words
            ]
            xs.append(confidence.features(layout, draft)[[bool(c.words) for c in draft.cells]])
            ys.append(np.array(right, dtype=float))
    return np.concatenate(xs)[:CELLS], np.concatenate(ys)[:CELLS]


def fit_cells(cells: Sequence[tuple[Array, Array]]) -> Any:
    """Fit how likely a cell is right; cells of one document, which are right or wrong together, count as the
    root of their number.
    """
    from sklearn.ensemble import HistGradientBoostingClassifier

    seen, right = (np.concatenate([c[k] for c in cells]) for k in (0, 1))
    weight = np.concatenate([np.full(len(y), max(len(y), 1) ** -0.5) for _, y in cells])
    model = HistGradientBoostingClassifier(
        max_iter=150, learning_rate=0.05, max_leaf_nodes=12, max_depth=6, min_samples_leaf=300,
        l2_regularization=5.0, random_state=0,
    )  # fmt: skip
    return model.fit(seen, right, weight)


def calibration(cells: Sequence[tuple[Array, Array]], source: Sequence[int]) -> tuple[float, float]:
    """Scale and shift of the log-odds (Platt 1999), from the documents of each source as a model of the other
    sources sees them, which is what users' documents are; of three thirds where there is one source.
    """
    odds, right = [], []
    part = np.array(source) if len(set(source)) > 1 else np.arange(len(cells)) % 3
    for own in np.unique(part).tolist():
        model = fit_cells([c for c, of in zip(cells, part, strict=True) if of != own])
        seen = [c for c, of in zip(cells, part, strict=True) if of == own and len(c[1])]
        odds += [model.decision_function(x) for x, _ in seen]
        right += [y for _, y in seen]
    known, wanted = np.concatenate(odds), np.concatenate(right)

    def loss(line: Array) -> float:
        z = line[0] * known + line[1]
        return float((np.logaddexp(0, z) - wanted * z).sum())

    scale, shift = minimize(loss, np.array([1.0, 0.0]), method="Nelder-Mead").x
    return float(scale), float(shift)


def write(
    name: str,
    features: Sequence[str],
    models: Sequence[Any],
    line: tuple[float, float] = (1.0, 0.0),
    **fitted: int,
) -> None:
    """Write fitted sums of trees, scaled and shifted by `line`, with what they were fitted on."""
    about = {"format": "wennak-trees", "version": 2, "fitted_on": fitted, "features": list(features)}
    with (DATA / name).open("wb") as file:
        write_sums(file, about, [sum_of(model, *line) for model in models])
    print(f"{name}: fitted on {fitted}")


def read(path: Path) -> Kept:
    """Read what a file of data says of itself, and its sums."""
    with path.open("rb") as file:
        return read_sums(file)


def average(name: str, before: Kept) -> None:
    """Write the mean of a file of data and of one of the same features that was fitted before: two fits on
    different documents err at different places.
    """
    about, sums = read(DATA / name)
    if about["features"] != before[0]["features"]:
        raise SystemExit("The judge to put beside was fitted on other features.")
    about["fitted_on"] = {key: n + before[0]["fitted_on"][key] for key, n in about["fitted_on"].items()}
    with (DATA / name).open("wb") as file:
        write_sums(file, about, [mean(*both) for both in zip(before[1], sums, strict=True)])
    print(f"{name}: the mean of two, fitted on {about['fitted_on']}")


def mean(a: dict[str, Any], b: dict[str, Any]) -> dict[str, Any]:
    """Return the mean of two sums of trees, as one that holds the trees of both."""
    nodes = len(a["feature"])
    moved = {**b, "roots": np.asarray(b["roots"]) + nodes}
    for key in ("left", "right"):
        moved[key] = np.where(np.asarray(b[key]) < 0, -1, np.asarray(b[key]) + nodes)
    out: dict[str, Any] = {key: np.concatenate((a[key], moved[key])) for key in PARTS}
    out["value"] = [float(f"{value / 2:.4g}") for value in out["value"]]
    return {"base": (a["base"] + b["base"]) / 2, "depth": max(a["depth"], b["depth"]), **out}


def sum_of(model: Any, scale: float, shift: float) -> dict[str, Any]:
    """A fitted sum of trees as flat lists of nodes; a leaf has no children (-1)."""
    out: dict[str, Any] = {key: [] for key in PARTS}
    depth = 0
    for (tree,) in model._predictors:
        start = len(out["feature"])
        out["roots"].append(start)
        depth = max(depth, int(tree.nodes["depth"].max()))
        for node in tree.nodes:
            leaf = bool(node["is_leaf"])
            out["feature"].append(0 if leaf else int(node["feature_idx"]))
            out["threshold"].append(0.0 if leaf else float(f"{node['num_threshold']:.6g}"))
            out["left"].append(-1 if leaf else start + int(node["left"]))
            out["right"].append(-1 if leaf else start + int(node["right"]))
            out["value"].append(float(f"{scale * node['value']:.4g}") if leaf else 0.0)
    base = scale * float(np.ravel(model._baseline_prediction)[0]) + shift
    return {"base": base, "depth": depth, **out}


def report(pages: Sequence[Observed]) -> None:
    """Print what the judge makes of readings it was not fitted on, beside the best that it might."""
    chosen, best = [], []
    for page in pages:
        for table in range(len(page.parts)):
            own = np.flatnonzero(page.table == table)
            if not len(own):
                chosen.append((0.0, 0.0))
                best.append((0.0, 0.0))
                continue
            worth = (1 - EXACT) * page.similar + EXACT * page.exact
            for out, at in ((chosen, own[page.gains[own].argmax()]), (best, own[worth[own].argmax()])):
                out.append((float(page.similar[at]), float(page.exact[at])))
    for name, pairs in (("chosen", chosen), ("best", best)):
        content, exact = np.array(pairs).mean(axis=0)
        print(f"left out, {name}: content {content:.4f}, exact {exact:.4f}, {len(pairs)} tables by page")


if __name__ == "__main__":
    main()
