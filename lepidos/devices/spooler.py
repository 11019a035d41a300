"""The system's own print spooler (CUPS: `lp`, `lpstat`) as the label printer."""

import shutil
import subprocess

from lepidos.devices.printer import AGAIN, Jammed, OutOfPaper, PrinterOffline, PrintJob

ANSWERS_IN_S = 10
# What `lpstat -p NAME -l` says of a printer that will not print: IPP's printer-state-reasons.
_PAPER = ("media-empty", "media-needed", "out of paper")
_JAM = ("media-jam", "jammed")


class Spooler:
    """Hands labels to `lp`. `queue` is a printer's name there; empty: the system's default.

    Whether a label came out is the spooler's business: what it says of the printer is asked before
    each job.
    """

    def __init__(self, queue: str = "") -> None:
        self.queue = queue

    def check(self) -> None:
        """See `LabelPrinter.check`."""
        if not shutil.which("lp"):
            raise PrinterOffline(f"This machine has no print spooler (lp). {AGAIN}")
        said = self._run(["lpstat", "-l", *(["-p", self.queue] if self.queue else ["-p", "-d"])])
        text = said.lower()
        if any(word in text for word in _PAPER):
            raise OutOfPaper(f"The label printer is out of labels. Put a roll in. {AGAIN}")
        if any(word in text for word in _JAM):
            raise Jammed(f"A label is stuck in the printer. Open it and pull it out. {AGAIN}")
        if "disabled" in text or "offline-report" in text:
            raise PrinterOffline(f"The label printer does not answer. {AGAIN}")

    def print(self, job: PrintJob) -> None:
        """See `LabelPrinter.print`."""
        self.check()
        to = ["-d", self.queue] if self.queue else []
        self._run(["lp", *to, "-t", job.name, "-"], job.pdf)

    def _run(self, command: list[str], given: bytes = b"") -> str:
        try:
            done = subprocess.run(  # noqa: S603 - a fixed program, its arguments no shell reads
                command, input=given, capture_output=True, timeout=ANSWERS_IN_S, check=False
            )
        except (OSError, subprocess.TimeoutExpired) as error:
            raise PrinterOffline(f"The print spooler does not answer. {AGAIN}") from error
        if done.returncode:
            why = done.stderr.decode("utf-8", "replace").strip().splitlines()
            reason = why[0][:200] if why else f"it ended with {done.returncode}"
            raise PrinterOffline(f"The print spooler refused the label: {reason}. {AGAIN}")
        return done.stdout.decode("utf-8", "replace")
