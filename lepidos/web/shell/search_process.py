"""The process that looks for better orders of work, beside the one that answers pages."""

import multiprocessing
import os
import threading
from concurrent.futures import ProcessPoolExecutor
from multiprocessing.sharedctypes import Synchronized

from lepidos.stations.base import search
from lepidos.stations.base.search import OrderSearch


def start_search(seconds: float) -> OrderSearch:
    """A search with a worker process, which starts when it is first needed."""
    context = multiprocessing.get_context("spawn")
    wanted = context.Value("q", 0)
    return OrderSearch(lambda: ProcessPoolExecutor(1, context, _begin, (wanted,)), wanted, seconds)


def end_search(search: OrderSearch) -> None:
    """End the search at once, whatever its process is at: the app's end would wait for it.

    On a busy machine the process, which yields to everything else, may take minutes to hear of it.
    """
    search.close()
    for worker in multiprocessing.active_children():
        worker.kill()
        worker.join()


def _begin(wanted: "Synchronized[int]") -> None:
    search._wanted = wanted
    os.nice(19)  # a better order may take its time; whoever weighs or lands may not
    threading.Thread(target=_end_with_parent, daemon=True).start()


def _end_with_parent() -> None:
    # a parent that was killed says no goodbye, and the worker would wait for work for ever
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(0)
