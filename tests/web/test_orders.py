"""An order's fields are all that a form or the API needs to know of it."""

import unittest
from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from typing import Annotated, Any, Literal
from zoneinfo import ZoneInfo

from annotated_types import Ge, Le, MaxLen
from fastapi import FastAPI
from fastapi.responses import JSONResponse
from fastapi.testclient import TestClient

from lepidos.core.errors import Refused
from lepidos.core.units import System
from lepidos.stations.base.digest import BESIDE, COUNTED, FLAT, digest_of
from lepidos.web.api.orders import asked
from lepidos.web.shell.forms import FormData
from lepidos.web.shell.orders import path_names, posted_name, read_order


@dataclass(frozen=True)
class Thing:
    """What a part of an order is."""

    colour: str = "red"
    reach_m: float | None = None


@dataclass(frozen=True)
class Order:
    """One field of each kind."""

    trip_id: str
    party_id: str
    kg: float | None = None
    length_m: float = 0.0
    sea_c: float | None = None
    parts: tuple[str, ...] = ()
    number: Annotated[int, Ge(1), Le(9)] = 2
    glazed: bool = False
    side: Literal["", "A", "B"] = ""
    note: Annotated[str, MaxLen(5)] = "none"
    on: date = date(2026, 7, 14)
    leaves_at: datetime | None = None
    thing: Thing = field(default=Thing(), metadata=FLAT)
    system: System = field(default="metric", metadata=BESIDE)
    waited_s: float = field(default=0.0, metadata=BESIDE)


def form(system: System = "metric", **values: str | list[str]) -> FormData:
    every = {name: [v] if isinstance(v, str) else v for name, v in values.items()}
    return FormData(every, {}, system)


class FormTest(unittest.TestCase):
    def read(self, posted: FormData, **known: object) -> Order:
        usual = {"trip_id": "T", "thing": Thing()} | known
        return read_order(posted, Order, ZoneInfo("Etc/GMT-1"), **usual)

    def test_every_field_is_read_by_its_name_and_its_unit(self) -> None:
        found = self.read(
            form(
                "imperial", party="Marsh", weight="2 lb", length="10", sea_c="50", part=["a", "b"],
                number="3", glazed="on", side="B", note="dry", on="2026-07-15",
                leaves_at="2026-07-15T18:00", waited_ms="1500",
            )
        )  # fmt: skip
        self.assertEqual((found.party_id, found.parts, found.number), ("Marsh", ("a", "b"), 3))
        self.assertAlmostEqual(found.kg or 0, 2 * 0.45359237)  # NIST SP 811, B.8
        self.assertAlmostEqual(found.length_m, 0.254)
        self.assertAlmostEqual(found.sea_c or 0, 10.0)
        self.assertEqual((found.glazed, found.side, found.note), (True, "B", "dry"))
        self.assertEqual(found.on, date(2026, 7, 15))
        self.assertEqual(found.leaves_at, datetime(2026, 7, 15, 17, tzinfo=UTC))
        self.assertEqual((found.system, found.waited_s), ("imperial", 1.5))

    def test_what_is_not_said_is_as_usual(self) -> None:
        self.assertEqual(self.read(form(party="", on="2026-07-14")), Order("T", "", thing=Thing()))

    def test_each_slip_has_its_sentence_at_its_field_and_nothing_is_made(self) -> None:
        with self.assertRaises(Refused) as caught:
            self.read(form(weight="heavy", number="12", note="far too long", on="soon"))
        self.assertEqual(set(caught.exception.problems), {"weight", "number", "note", "on"})
        self.assertIn("from 1 to 9", caught.exception.problems["number"])

    def test_a_page_may_call_a_field_otherwise(self) -> None:
        posted = form(to="Dunn", on="2026-07-14")
        found = read_order(posted, Order, None, {"party_id": "to"}, trip_id="T", thing=Thing())
        self.assertEqual(found.party_id, "Dunn")

    def test_names(self) -> None:
        self.assertEqual(path_names("/boards/{board_id}/{what}"), ("board_id", "what"))
        self.assertEqual(
            [posted_name(n) for n in ("kg", "ice_kg", "slice_m", "celsius")],
            ["weight", "ice", "slice", "celsius"],
        )


class ApiTest(unittest.TestCase):
    def setUp(self) -> None:
        app = FastAPI()
        self.got: list[Order] = []

        @app.post("/trips/{trip_id}")
        def write(order: Annotated[Order, asked(Order, ("trip_id",), ("side",))]) -> None:
            self.got.append(order)

        @app.exception_handler(Refused)
        def refused(_: object, error: Refused) -> Any:
            return JSONResponse(error.problems, 422)

        self.client = TestClient(app)
        self.schema = app.openapi()

    def send(self, **body: object) -> int:
        return self.client.post("/trips/T", json={"party_id": "Marsh"} | body).status_code

    def test_every_field_is_taken_under_its_own_name_lengths_in_centimetres(self) -> None:
        status = self.send(weight_kg=1.5, length_cm=25.4, sea_c=9, parts=["a"], glazed=True,
                           leaves_at="2026-07-15T18:00:00+01:00", reach_cm=80, colour="blue")  # fmt: skip
        self.assertEqual(status, 200)
        (found,) = self.got
        self.assertEqual((found.trip_id, found.party_id, found.kg), ("T", "Marsh", 1.5))
        self.assertAlmostEqual(found.length_m, 0.254)
        self.assertEqual((found.parts, found.glazed, found.sea_c), (("a",), True, 9))
        self.assertEqual(found.thing, Thing("blue", 0.8))
        self.assertEqual(found.leaves_at, datetime(2026, 7, 15, 17, tzinfo=UTC))

    def test_what_is_beside_the_order_or_of_pages_only_is_not_taken(self) -> None:
        for name, value in (("system", "imperial"), ("waited_s", 9), ("side", "A"), ("x", 1)):
            self.assertEqual(self.send(**{name: value}), 422, name)
        self.assertEqual(self.got, [])

    def test_bounds_hold(self) -> None:
        for name, value in (("number", 12), ("note", "far too long"), ("sea_c", "NaN"),
                            ("party_id", "x" * 201), ("weight_kg", -1), ("leaves_at", "2026-07-15T18:00:00")):  # fmt: skip
            self.assertEqual(self.send(**{name: value}), 422, name)
        self.assertEqual(self.got, [])

    def test_the_documents_name_it_as_the_use_case_does(self) -> None:
        body = self.schema["components"]["schemas"]["Order"]
        self.assertEqual(body["description"], "One field of each kind.")
        self.assertEqual(body["required"], ["party_id"])
        self.assertLessEqual(
            {"weight_kg", "length_cm", "reach_cm", "colour"}, set(body["properties"])
        )

    def test_where_nothing_has_to_be_said_no_body_is_needed(self) -> None:
        @dataclass(frozen=True)
        class Light:
            trip_id: str
            thing: Thing = field(metadata=FLAT)
            note: str = "none"

        app, got = FastAPI(), []

        @app.post("/trips/{trip_id}")
        def write(order: Annotated[Light, asked(Light, ("trip_id",))]) -> None:
            got.append(order)

        self.assertEqual(TestClient(app).post("/trips/T").status_code, 200)
        self.assertEqual(got, [Light("T", Thing())])


class DigestTest(unittest.TestCase):
    def test_a_field_that_had_no_usual_value_before_counts_as_it_did(self) -> None:
        @dataclass(frozen=True)
        class Before:
            piece: str
            side: str

        @dataclass(frozen=True)
        class Now:
            piece: str
            side: str = field(default="", metadata=COUNTED)
            glazed: bool = False

        self.assertEqual(digest_of(Before("gut", "")), digest_of(Now("gut")))
        self.assertNotEqual(digest_of(Now("gut")), digest_of(Now("gut", "A")))
        self.assertNotEqual(digest_of(Now("gut")), digest_of(Now("gut", glazed=True)))
