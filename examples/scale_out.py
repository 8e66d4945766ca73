"""Convert on a Dask cluster: a local one here; the same with the address of a scheduler elsewhere.

From the command line the same is: wennak convert papers/ --out texts/ --cluster tcp://scheduler:8786
"""

from pathlib import Path

from distributed import Client, LocalCluster

import wennak
from wennak.demo import write_collection


def main() -> None:
    """Convert the papers on two workers, then once more, when nothing is left to be done."""
    write_collection(Path("wennak-demo"))
    with (
        LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None) as cluster,
        Client(cluster) as client,
    ):
        # Anything in the manner of concurrent.futures does the work.
        executor = client.get_executor()
        first = wennak.convert("wennak-demo/papers", "texts-cluster", ["md"], workers=executor)
        print(first)
        # The journal knows what is done: a run that was stopped goes on, and one that was not does nothing.
        again = wennak.convert("wennak-demo/papers", "texts-cluster", ["md"], workers=executor)
        print(again)


if __name__ == "__main__":
    main()
