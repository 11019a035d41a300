"""Kills amid copies, restores and migrations, many of each: nothing acknowledged may be lost.

.venv/bin/python -m bench.kills [rounds of each] [seed]
"""

import sys
import tempfile
import threading
import time
from pathlib import Path
from random import Random
from typing import Any

from tests import kills
from tests.test_kill import Hand, KillTest


def main(rounds: int, seed: int) -> None:
    """Print how many kills there were, and of how many writes."""
    test = KillTest()
    test.setUp()
    hands = test.hands()
    acknowledged: dict[str, Any] = {}
    for hand in hands:
        hand.start()
    threading.Thread(target=test.gather, args=(hands, acknowledged), daemon=True).start()
    try:
        test.wait_for_work(hands)
        rng = Random(seed)
        made = kills.copies(test.server, acknowledged, rounds, rng)
        _end(hands)
        test.server.kill()
        done = {key for hand in hands for key in hand.acknowledged}
        print(f"{rounds} kills amid copies, {len(done)} writes acknowledged, {made} whole copies")
        copy = sorted((test.folder / "backups").glob("*.sqlite"))[0]
        apart = test.folder / "copy.sqlite"
        apart.write_bytes(copy.read_bytes())
        amid = kills.restores(test.folder, apart, done, rounds, rng)
        print(f"{rounds} restores begun, {amid} killed amid them, all came back")
        with tempfile.TemporaryDirectory() as folder:
            amid = kills.migrations(Path(folder), rounds, rng)
        print(f"{rounds} migrations begun, {amid} killed amid them, all came forward")
    finally:
        test.doCleanups()


def _end(hands: list[Hand]) -> None:
    time.sleep(1)
    for hand in hands:
        hand.ending.set()
        hand.join(20)
        if hand.failure:
            raise RuntimeError(hand.failure)


if __name__ == "__main__":
    given = [int(word) for word in sys.argv[1:]]
    main(given[0] if given else 40, given[1] if given[1:] else 1)
