"""What hangs together."""

from __future__ import annotations

import numpy as np

from ..ink import Ints


def connected(a: Ints, b: Ints, count: int) -> Ints:
    """Return the number of the component of each of `count` things, where `a[i]` and `b[i]` touch."""
    # Loaded where it is used: it takes as long as the rest of the library, and a command may read no page.
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    graph = coo_matrix((np.ones(len(a)), (a, b)), shape=(count, count))
    label: Ints = connected_components(graph, directed=False)[1].astype(np.int64)
    return label
