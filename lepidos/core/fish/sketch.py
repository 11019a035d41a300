"""Small schematic drawings as data: strokes in a window of 120 by 80, y downwards."""

from typing import Annotated, Literal

from pydantic import Field

from lepidos.core.fish.species import Known

WIDTH, HEIGHT = 120, 80
Path = Annotated[str, Field(pattern=r"^[MLHVCSQTAZmlhvcsqtaz0-9 .,-]+$", max_length=600)]


class Stroke(Known):
    """A path, and what it is: body, line, the tell that is asked about, or something soft."""

    d: Path
    kind: Literal["body", "line", "tell", "tell_fill", "soft", "dark"] = "line"
