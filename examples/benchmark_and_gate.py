"""Measure methods against checked truth, and let a release pass only where the first one is good enough."""

import sys
from pathlib import Path

import wennak
from wennak.bench import summarise, verdict, write_report
from wennak.demo import write_collection


def main() -> int:
    """Run, report, and return the exit code of the gate."""
    write_collection(Path("wennak-demo"))
    # What some other program made is measured from its files, without running it.
    results = wennak.benchmark(
        "wennak-demo/papers",
        ("combined", "ruled", "plain"),
        "runs/today",
        {"typed": "wennak-demo/typed"},
        workers=2,
    )
    summary = summarise(results)
    for method in summary.methods:
        mean = method.means["score"]
        print(f"{method.rank}  {method.name:10} {mean.mean:.3f}  {method.exact} tables without any error")
    print("\n".join(verdict(summary)))
    print(f"Open {write_report('runs/today')} in a browser.")

    first = next(m for m in summary.methods if m.name == "combined")
    wrong = first.wrong_numbers
    passed = first.means["score"].mean >= 0.95 and wrong == 0
    print(f"Gate: {'passed' if passed else 'failed'} ({wrong} numbers changed or invented)")
    return 0 if passed else 3


# Each document is read in a process of its own, which begins by importing this script.
if __name__ == "__main__":
    sys.exit(main())
