"""20,000 requests drawn from the API's document: every answer as it says, every page still there.

.venv/bin/python -m bench.contract [examples of each kind an operation] [seed]
"""

import logging
import sys
import tempfile
import time
from pathlib import Path

from lepidos.settings import Settings
from lepidos.web.app import make_app
from tests.web.client import HOST, Client
from tests.web.contract import Contract

EXAMPLES = 200


def main(examples: int, seed: int) -> int:
    """Print what was answered how often; 1 when something was not as the document says."""
    logging.disable(logging.CRITICAL)
    began = time.perf_counter()
    with tempfile.TemporaryDirectory() as folder:
        settings = Settings(
            data_dir=Path(folder), timezone="Europe/Lisbon", log_level="error", search_seconds=0,
            clock_at="2026-07-14T12:00:00+00:00",
        )  # fmt: skip
        with Client(make_app(settings), base_url=HOST) as client:
            run = Contract(client, seed)
            run.run(examples)
    for line in sorted(set(run.bad))[:40]:
        print(line)
    took = time.perf_counter() - began
    print(f"{run.asked} requests in {took:.0f} s, {len(run.bad)} not as the document says")
    print(", ".join(f"{status}: {number}" for status, number in sorted(run.statuses.items())))
    return 1 if run.bad else 0


if __name__ == "__main__":
    given = [int(word) for word in sys.argv[1:]]
    sys.exit(main(given[0] if given else EXAMPLES, given[1] if given[1:] else 1))
