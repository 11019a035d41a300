"""20,000 seeded requests over every form and API operation: none may be answered with a 500.

.venv/bin/python -m bench.no_500
"""

import logging
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from lepidos.settings import Settings
from lepidos.web.app import make_app
from tests.web.client import HOST, Client
from tests.web.fuzz import Fuzz

SEEDS, REQUESTS = range(10), 2000


def main() -> int:
    """Print what was answered how often; 1 when there was a 500."""
    logging.disable(logging.CRITICAL)
    statuses: Counter[int] = Counter()
    bad: list[str] = []
    began = time.perf_counter()
    for seed in SEEDS:
        with tempfile.TemporaryDirectory() as folder:
            settings = Settings(
                data_dir=Path(folder), timezone="Europe/Lisbon", log_level="error",
                clock_at="2026-07-14T12:00:00+00:00",
            )  # fmt: skip
            with Client(make_app(settings), base_url=HOST, follow_redirects=False) as client:
                fuzz = Fuzz(client, seed)
                bad += fuzz.run(REQUESTS)
                statuses.update(fuzz.statuses)
    for line in bad[:20]:
        print(line)
    took = time.perf_counter() - began
    print(f"{statuses.total()} requests in {took:.0f} s, {len(bad)} answered with a 500")
    print(", ".join(f"{status}: {number}" for status, number in sorted(statuses.items())))
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
