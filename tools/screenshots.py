"""Take the pictures in docs/screenshots from the demo data: python tools/screenshots.py.

Needs a Chromium on the PATH; pictures are 1280 x 800.
"""

import random
import shutil
import subprocess
import sys
import tempfile
from html import escape
from pathlib import Path
from typing import Any

import nbformat
import pikepdf
import pypdfium2
from draw_equations import by_boxes
from markdown_it import MarkdownIt
from nbclient import NotebookClient

OUT = Path(__file__).parent.parent / "docs/screenshots"
EXAMPLES = Path(__file__).parent.parent / "examples"
TERMINAL = """<!DOCTYPE html><meta charset="utf-8"><style>
body {{ margin: 0; background: #fff; }}
pre {{ font: 17px/1.35 "DejaVu Sans Mono", monospace; margin: 24px; color: #222; white-space: pre-wrap; }}
</style><pre>{}</pre>"""
NOTEBOOK = """<!DOCTYPE html><meta charset="utf-8"><style>
body {{ margin: 12px 40px; background: #fff; font: 14px/1.4 "DejaVu Sans", sans-serif; color: #222; }}
pre {{ font: 13px/1.4 "DejaVu Sans Mono", monospace; background: #f4f4f4; padding: 8px; }}
td, th {{ padding: 1px 8px; }}
</style>{}"""


def main() -> None:
    """Run the demo in a fresh folder and picture what it prints and writes."""
    browser = next((b for b in ("chromium", "chromium-browser", "google-chrome") if shutil.which(b)), None)
    if browser is None:
        sys.exit("No Chromium was found; install one to take pictures.")
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        printed = f"$ wennak demo\n{_wennak(folder, 'demo')}"
        _picture(browser, _page(folder, "demo", printed), OUT / "demo.png")
        _picture(browser, folder / "wennak-demo/converted/timetable.html", OUT / "converted.png")
        _wennak(folder, "look", "wennak-demo/papers/swell-note.pdf", "--out", "look-columns")
        _picture(browser, folder / "look-columns/index.html", OUT / "look-columns.png")
        _wennak(folder, "look", "wennak-demo/scans/engine-inspection-scan.pdf", "--out", "look-scan")
        _picture(browser, folder / "look-scan/index.html", OUT / "look-scan.png")
        _wennak(folder, "look", "wennak-demo/scans/quay-rules-nameless.pdf", "--out", "look-nameless")
        _picture(browser, folder / "look-nameless/index.html", OUT / "look-nameless.png")
        photo = "wennak-demo/scans/berth-ledger-photo.jpg"
        shown = _wennak(folder, "tables", photo, "--show", "1")
        printed = f"$ wennak tables {photo} --show 1\n{shown}"
        _picture(browser, _page(folder, "tables-photo", printed), OUT / "tables-photo.png")
        _collection(browser, folder)
        _recipes(browser, folder)
        _pointing(browser, folder)
        _service(browser, folder)
        _notebook(browser, folder)
        _equations(browser, folder)
        report = folder / "wennak-demo/benchmark/report.html"
        _picture(browser, report, OUT / "report.png")
        # The part of the report that shows tables, as someone sees it who asks for what the clerk typed.
        asked = "<script>document.getElementById('method').value='typed';draw();</script></body>"
        part = report.read_text(encoding="utf-8").replace("</body>", asked)
        shown_part = part.replace(
            "</style>", "body > :not(.bar, #tables, #cases, script) { display: none; }</style>"
        )
        (folder / "tables.html").write_text(shown_part, encoding="utf-8")
        _picture(browser, folder / "tables.html", OUT / "report-tables.png")
        _wennak(folder, "truth", "draft", "wennak-demo/papers/timetable.pdf")
        _wennak(folder, "truth", "sheet", "truth")
        _picture(browser, folder / "sheets/timetable-sheet.html", OUT / "sheet.png")
        paper = "wennak-demo/papers/cargo-manifest.pdf"
        listed = f"$ wennak tables {paper}\n{_wennak(folder, 'tables', paper)}"
        shown = _wennak(folder, "tables", "wennak-demo/papers/swell-note.pdf", "--show", "1")
        listed += f"$ wennak tables wennak-demo/papers/swell-note.pdf --show 1\n{shown}"
        _picture(browser, _page(folder, "tables", listed), OUT / "tables.png")
        markdown = _wennak(folder, "convert", "wennak-demo/papers/fares-circular.pdf")
        printed = f"$ wennak convert wennak-demo/papers/fares-circular.pdf\n{markdown}"
        _picture(browser, _page(folder, "markdown", printed), OUT / "markdown.png")


def _collection(browser: str, folder: Path) -> None:
    """The papers as somebody keeps them: some twice, some torn, one locked."""
    papers = folder / "papers"
    shutil.copytree(folder / "wennak-demo/papers", papers / "2024", ignore=shutil.ignore_patterns("*.html"))
    shutil.copytree(folder / "wennak-demo/scans", papers / "scans")
    shutil.copy(papers / "2024/timetable.pdf", papers / "timetable-copy.pdf")
    (papers / "2023").mkdir()
    (papers / "2023/fares-torn.pdf").write_bytes((papers / "2024/fares-circular.pdf").read_bytes()[:900])
    with pikepdf.open(papers / "2024/yearly-accounts.pdf") as pdf:
        locked = pikepdf.Encryption(owner="board", user="board")
        pdf.save(papers / "2023/accounts-locked.pdf", encryption=locked)
    _wennak(folder, "survey", "papers", "--out", "survey.html", expected=1)
    _picture(browser, folder / "survey.html", OUT / "survey.png")
    arguments = ("convert", "papers", "--out", "text", "--as", "md,json", "--together", "passages,csv")
    told = [_wennak(folder, *arguments, expected=1) for _ in range(2)]
    printed = "".join(f"$ wennak {' '.join(arguments)}\n{one}\n" for one in told)
    _picture(browser, _page(folder, "collection", printed), OUT / "collection.png")


def _recipes(browser: str, folder: Path) -> None:
    """The ledger whose total was misprinted, tried, and the whole year."""
    recipe, ledgers = "wennak-demo/recipes/berth-charges.yaml", "wennak-demo/ledgers"
    tried = ("recipe", "try", recipe, f"{ledgers}/berth-charges-2031-11.pdf")
    printed = f"$ wennak {' '.join(tried)}\n{_wennak(folder, *tried, expected=3)}"
    _picture(browser, _page(folder, "recipe-try", printed), OUT / "recipe-try.png")
    arguments = ("recipe", "apply", recipe, ledgers, "--out", "data")
    printed = f"$ wennak {' '.join(arguments)}\n{_wennak(folder, *arguments, expected=3)}"
    lines = (folder / "data/berth-charges.csv").read_text(encoding="utf-8").splitlines()[:9]
    printed += "\n$ head -9 data/berth-charges.csv\n" + "\n".join(lines)
    totals = (folder / "data/berth-charges-totals.csv").read_text(encoding="utf-8").splitlines()[:6]
    printed += "\n\n$ head -6 data/berth-charges-totals.csv\n" + "\n".join(totals)
    _picture(browser, _page(folder, "recipe-apply", printed), OUT / "recipe-apply.png")


def _pointing(browser: str, folder: Path) -> None:
    """A frame dragged over the first table of the fares, and its columns clicked."""
    from selenium.webdriver import ActionChains
    from selenium.webdriver.common.by import By

    _wennak(folder, "look", "wennak-demo/papers/fares-circular.pdf", "--out", "look-point")
    with _driven(browser, "1280,1400") as driver:
        driver.get((folder / "look-point/index.html").as_uri())
        layer = driver.find_element(By.CSS_SELECTOR, ".stage svg")
        wide, high = layer.size["width"], layer.size["height"]

        def at(x: float, y: float) -> tuple[int, int]:
            return round(x / 595.3 * wide - wide / 2), round(y / 841.9 * high - high / 2)

        mouse = ActionChains(driver)
        mouse.move_to_element_with_offset(layer, *at(68, 190)).click_and_hold()
        mouse.move_to_element_with_offset(layer, *at(405, 337)).release().perform()
        for x in (131, 193, 233, 270, 318):
            ActionChains(driver).move_to_element_with_offset(layer, *at(x, 260)).click().perform()
        driver.set_window_size(1280, 940)
        driver.execute_script("window.scrollTo(0, 60)")
        driver.save_screenshot(str(OUT / "look-point.png"))


def _equations(browser: str, folder: Path) -> None:
    """A page of equations beside what a browser makes of the HTML."""
    data, _ = by_boxes(random.Random("of the picture"))
    (folder / "equations.pdf").write_bytes(data)
    with pypdfium2.PdfDocument(data) as pdf:
        pdf[0].render(scale=1.6).to_pil().crop((80, 80, 880, 1180)).save(folder / "equations.png")
    _wennak(folder, "convert", "equations.pdf", "--out", "equations", "--as", "html")
    shown = (
        "<style>body { margin: 0; display: flex } img, iframe { width: 50%; height: 800px; border: 0;"
        " object-fit: cover; object-position: left top }</style>"
        "<img src='equations.png'><iframe src='equations/equations.html'></iframe>"
    )
    (folder / "equations.html").write_text(shown, encoding="utf-8")
    _picture(browser, folder / "equations.html", OUT / "equations.png")


def _service(browser: str, folder: Path) -> None:
    """The page of the service, with the fares."""
    from selenium.common.exceptions import WebDriverException
    from selenium.webdriver.common.by import By
    from selenium.webdriver.support.ui import WebDriverWait

    command = [sys.executable, "-m", "wennak", "serve", "--port", "0", "--workers", "1"]
    server = subprocess.Popen(command, stderr=subprocess.PIPE, text=True)
    assert server.stderr is not None
    address = server.stderr.readline().split()[2].rstrip(";")
    try:
        with _driven(browser, "1280,940") as driver:
            driver.get(address)
            paper = folder / "wennak-demo/papers/fares-circular.pdf"
            driver.find_element(By.ID, "file").send_keys(str(paper))
            driver.find_element(By.CSS_SELECTOR, "form button").click()
            # The page is another one once the document is read.
            wait = WebDriverWait(driver, 60, ignored_exceptions=[WebDriverException])
            wait.until(lambda d: d.find_elements(By.CSS_SELECTOR, "article, .refused"))
            driver.save_screenshot(str(OUT / "service.png"))
    finally:
        server.terminate()
        server.wait()


def _notebook(browser: str, folder: Path) -> None:
    """The notebook among the examples, as far as its first outputs."""
    notebook = nbformat.read(EXAMPLES / "first_look.ipynb", 4)  # type: ignore[no-untyped-call]
    metadata = {"metadata": {"path": str(folder)}}
    NotebookClient(notebook, timeout=300, kernel_name="python3", resources=metadata).execute()
    parts = []
    for cell in notebook.cells:
        if cell.cell_type == "code":
            shown = "".join(output.data.get("text/html", "") for output in cell.outputs)
            parts.append(f"<pre>{escape(cell.source)}</pre>{shown}")
        else:
            parts.append(MarkdownIt().render(cell.source))
    page = folder / "notebook.html"
    page.write_text(NOTEBOOK.format("".join(parts)), encoding="utf-8")
    _picture(browser, page, OUT / "notebook.png")


def _driven(browser: str, size: str) -> Any:
    """A browser that can be told what to do; to be used in a with statement."""
    from selenium import webdriver

    driver = shutil.which("chromedriver")
    if driver is None:
        sys.exit("No driver of Chromium was found; install chromium-driver to take pictures.")
    options = webdriver.ChromeOptions()
    options.binary_location = str(shutil.which(browser))
    for argument in ("--headless=new", "--no-sandbox", f"--window-size={size}"):
        options.add_argument(argument)
    return webdriver.Chrome(options, webdriver.ChromeService(driver))


def _wennak(folder: Path, *args: str, expected: int = 0) -> str:
    """What a command prints, errors too where it is expected to fail."""
    command = [sys.executable, "-m", "wennak", *args]
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True)
    if done.returncode != expected:
        sys.exit(f"wennak {' '.join(args)} ended with {done.returncode}: {done.stderr}")
    return done.stdout + (done.stderr if expected else "")


def _page(folder: Path, name: str, printed: str) -> Path:
    page = folder / f"{name}.html"
    page.write_text(TERMINAL.format(escape(printed)), encoding="utf-8")
    return page


def _picture(browser: str, page: Path, out: Path) -> None:
    options = ["--headless", "--no-sandbox", "--hide-scrollbars", "--window-size=1280,800"]
    command = [browser, *options, f"--screenshot={out}", page.resolve().as_uri()]
    subprocess.run(command, check=True, capture_output=True)


if __name__ == "__main__":
    main()
