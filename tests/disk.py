"""A disk of a test's own whose power can be cut: an ext4 image, copied as it stands while it is written.

A copy, mounted, is what a machine finds after the cut: the file system replays its journal, and what was
written and never synced is not there. Needs root and a loop device, see `can_mount`.
"""

import os
import shutil
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

MEGABYTES = 48
QUIET_TRIES = 200


@cache
def can_mount() -> bool:
    """Whether this machine lets the test mount an image."""
    if os.name != "posix" or os.geteuid() != 0 or not shutil.which("mkfs.ext4"):
        return False
    with TemporaryDirectory() as folder:
        try:
            with Disk(Path(folder), 8).mounted():
                return True
        except subprocess.CalledProcessError:
            return False


class Disk:
    """An image in a folder, and where it is mounted while it is."""

    def __init__(self, folder: Path, megabytes: int = MEGABYTES, image: Path | None = None) -> None:
        self.folder = folder
        self.image = image or folder / "disk.img"
        self.root = folder / "disk"
        self._loop = ""
        if image is None:
            folder.mkdir(exist_ok=True)
            with self.image.open("wb") as file:
                file.truncate(megabytes << 20)
            _run("mkfs.ext4", "-q", "-F", "-m", "0", str(self.image))

    @contextmanager
    def mounted(self) -> Iterator[Path]:
        """The mounted disk's root; unmounted again at the end."""
        self.root.mkdir(parents=True, exist_ok=True)
        # nothing reaches the disk by the clock, or because the file system guesses what is meant
        _run("mount", "-o", "loop,commit=300,noauto_da_alloc", str(self.image), str(self.root))
        self._loop = _run("findmnt", "-n", "-o", "SOURCE", str(self.root)).strip()
        try:
            yield self.root
        finally:
            _run("umount", str(self.root))

    def cut(self, to: Path) -> "Disk":
        """The disk as it stands at one moment: copied, and copied again while it was written to.

        Whoever writes to it should be stopped, or leave it alone for some hundredths of a second.
        """
        to.mkdir(parents=True)
        image = to / "disk.img"
        for _ in range(QUIET_TRIES):
            before = self._written()
            _run("cp", "--sparse=always", str(self.image), str(image))
            if self._written() == before:
                return Disk(to, image=image)
            time.sleep(0.005)
        raise RuntimeError("the disk was written to all the time")

    def _written(self) -> tuple[str, ...]:
        """Writes that came to the device, and how many are on their way."""
        stat = Path("/sys/block", Path(self._loop).name, "stat").read_text("ascii").split()
        return (stat[4], stat[6], stat[8])


def _run(*words: str) -> str:
    return subprocess.run(words, check=True, capture_output=True, text=True).stdout
