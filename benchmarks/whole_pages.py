"""What reading line by line gains: python benchmarks/whole_pages.py TRUTH...

Reads the PDFs that are pictures and have a truth (NAME.html beside NAME.pdf, as `wennak truth` makes it)
twice: as `wennak.read` does, and by the recogniser alone, given each whole page. Prints the F1 of the bag of
words of both, and the seconds of processor time a page, as means over the documents.
"""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import wennak
from wennak.bench.grid import normal
from wennak.bench.texts import word_f1
from wennak.errors import SourceError
from wennak.ink import PdfFile
from wennak.ink.raster import page_grey
from wennak.model import Document
from wennak.scan.pages import resolution
from wennak.scan.recogniser import installed_languages, language_folder
from wennak.truth import find_truth, load_truth

# Of each way: F1 of the words and seconds a page.
Compared = tuple[tuple[float, float], tuple[float, float]]


def main(folders: list[str]) -> int:
    """Print the means."""
    try:
        paths = [truth.path for folder in folders for truth in find_truth(folder)]
    except SourceError as error:
        print(error)
        return 1
    # Threads of linear algebra would be counted as work.
    os.environ["OPENBLAS_NUM_THREADS"] = os.environ["OMP_THREAD_LIMIT"] = "1"
    with ProcessPoolExecutor(2) as pool:
        found = [item for item in pool.map(compared, paths) if item]
    if not found:
        print("No documents that are pictures and have a truth were found in the folders named.")
        return 1
    print(f"{len(found)} documents")
    for way, name in enumerate(("line by line", "whole pages")):
        words, seconds = (sum(item[way][k] for item in found) / len(found) for k in (0, 1))
        ahead = sum(item[way][0] > item[1 - way][0] for item in found)
        print(f"{name}: words {words:.3f}, {seconds:.1f} s a page, the better one of {ahead} documents")
    return 0


def compared(path: Path) -> Compared | None:
    """Return what both ways make of a document; None where it has a page that is no picture."""
    truth = load_truth(path)
    source = path.with_suffix(".pdf")
    with PdfFile(source, path.name) as pdf:
        pages = [pdf.page(number) for number in range(1, pdf.page_count + 1)]
    if any(len(page.glyphs) or not len(page.pictures) for page in pages):
        return None
    expected = words_of(truth.document)
    languages, folder = "+".join(installed_languages()), f"{language_folder()}/"

    def alone() -> list[str]:
        import tesserocr

        texts = []
        with tesserocr.PyTessBaseAPI(folder, languages, psm=tesserocr.PSM.AUTO) as api:
            for page in pages:
                dots = resolution(page)
                grey = page_grey(source, page.number, path.name, "", dots / 72)
                api.SetImageBytes(grey.tobytes(), grey.shape[1], grey.shape[0], 1, grey.shape[1])
                api.SetSourceResolution(round(dots))
                texts.append(api.GetUTF8Text())
        return [word for text in texts for word in normal(text).split()]

    def ours() -> list[str]:
        return words_of(wennak.read(source))

    def compare(work: Callable[[], list[str]]) -> tuple[float, float]:
        words, cost = timed(work)
        return word_f1(expected, words), cost / len(pages)

    return compare(ours), compare(alone)


def words_of(document: Document) -> list[str]:
    """Return all words of a document, tables included."""
    return [word for text in document.texts() for word in normal(text).split()]


def timed(work: Callable[[], list[str]]) -> tuple[list[str], float]:
    """Return what comes out and the processor time that it takes."""
    start = time.process_time()
    return work(), time.process_time() - start


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
