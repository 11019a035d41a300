"""The API walks the same path, answers errors as problem documents, and repeats harmlessly."""

import unittest
from typing import Any

from lepidos.store.file import migrate
from tests.web.client import WebTest


class ApiTest(WebTest):
    def send(self, path: str, body: dict[str, Any] | None = None, key: str = ""):
        headers = {"idempotency-key": key or self.key()}
        return self.client.post(f"/api/v1{path}", json=body, headers=headers)

    def get(self, path: str) -> Any:
        answer = self.client.get(f"/api/v1{path}")
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def made(self, path: str, body: dict[str, Any] | None = None) -> str:
        answer = self.send(path, body)
        self.assertEqual(answer.status_code, 201, answer.text)
        return str(answer.json()["id"])

    def trip(self) -> str:
        return self.made(
            "/trips",
            {
                "name": "Marram Lass",
                "harbour": "Skarrow Quay",
                "on_date": "2026-07-14",
                "parties": ["Tolland"],
            },
        )


class PathTest(ApiTest):
    def test_the_whole_path(self) -> None:
        trip = self.trip()
        self.assertEqual(self.get("/trips")["total"], 1)
        fish = self.made(
            f"/trips/{trip}/fish",
            {"species": "pollack", "length_cm": 68, "weight_kg": 2.91, "states": ["iced"]},
        )
        self.made(f"/fish/{fish}/states", {"state": "bled"})
        self.made(f"/fish/{fish}/steps", {"step": "look"})
        self.assertEqual(self.get(f"/fish/{fish}")["next"], "gut")
        self.client.put("/api/v1/scale/stand-in", json={"load_kg": 0.35})
        self.ctx.scale.rest()
        self.made(f"/fish/{fish}/weighings", {"piece": "gut"})
        side = self.made(
            f"/fish/{fish}/weighings", {"piece": "fillet", "side": "A", "weight_kg": 0.58}
        )
        self.made(f"/fish/{fish}/close")
        at_bench = self.get(f"/fish/{fish}")
        balance = at_bench["balance"]
        self.assertAlmostEqual(balance["weighed_kg"] + balance["rest_kg"], 2.91)
        self.assertEqual(balance["rest_is"], "unaccounted for")
        piece = self.get(f"/pieces/{side}?serving_kg=0.2&per_bag=1")
        self.assertEqual(len(piece["marks_cm"]), len(piece["portions"]) - 1)
        self.assertIn(side, [p["id"] for p in self.get(f"/trips/{trip}/pieces")])
        sealed = self.send(f"/pieces/{side}/bags", {"index": 0, "per_bag": 1}).json()
        self.assertEqual(sealed["printer"], "sent")
        place = self.made("/places", {"name": "chest"})
        self.made(f"/bags/{sealed['code']}/in", {"place_id": place})
        self.assertEqual(self.get("/places")[0]["bags"], 1)
        self.assertEqual(self.get("/bags")["bags"][0]["code"], sealed["code"])
        self.made(f"/bags/{sealed['code']}/out", {"why": "given away"})
        bag = self.get(f"/bags/{sealed['code']}")
        self.assertEqual([m["action"] for m in bag["moves"]], ["in", "out"])
        self.assertEqual(bag["contents"][0]["fish"], "P1")
        self.made("/undo", {"kind": "move", "id": bag["moves"][1]["id"]})
        self.assertEqual(self.get(f"/bags/{sealed['code']}")["state"], "in")
        self.assertEqual(self.get(f"/trips/{trip}/yieldbook")["fish"][0]["code"], "P1")
        self.assertIn("P1", self.client.get(f"/api/v1/trips/{trip}/yieldbook.csv").text)
        self.assertEqual(self.get(f"/trips/{trip}")["gauges"]["bags"], 1)

    def test_a_dozen_alike_is_landed_finished_and_packed_in_three_calls(self) -> None:
        trip = self.made("/trips", {"kind": "shore", "on_date": "2026-07-14"})
        body = {
            "species": "mackerel",
            "length_cm": 24,
            "longest_cm": 34,
            "count": 12,
            "weight_kg": 2.8,
        }
        lot = self.send(f"/trips/{trip}/fish", body).json()
        self.assertEqual(lot["kind"], "lot")
        found = self.get(f"/trips/{trip}/fish")
        self.assertEqual(len(found), 12)
        self.assertEqual(sum(f["length_about"] for f in found), 10)
        self.assertAlmostEqual(sum(f["round_weight"]["kg"] for f in found), 2.8)
        closed = {"taken": ["fillet.A", "fillet.B"], "alike": True}
        self.assertEqual(self.send(f"/fish/{found[0]['id']}/close", closed).json()["kind"], "alike")
        self.assertEqual(len(self.get(f"/trips/{trip}/pieces")), 24)
        answer = self.send("/undo", {"kind": "lot", "id": lot["id"]})
        self.assertEqual(answer.status_code, 409, answer.text)

    def test_an_answers_kind_and_id_undo_what_was_done(self) -> None:
        trip = self.trip()
        card = {
            "species": "cod", "area": "inshore", "source": "the harbour", "checked_on": "2026-07-01"
        }  # fmt: skip
        written = self.made("/rules", card)
        steps: list[tuple[str, str, dict[str, Any]]] = [
            ("PUT", f"/rules/{written}", {**card, "min_cm": 40}),
            ("POST", "/rules", {**card, "species": "ling"}),
            ("POST", f"/trips/{trip}/boards", {"cutter": "Ines"}),
            ("POST", "/places", {"name": "chest"}),
            ("POST", f"/trips/{trip}/ice", {"seen_kg": 8}),
            ("POST", "/wishes", {"species": "cod", "skin": "off"}),
            ("POST", f"/trips/{trip}/fish", {"species": "cod", "length_cm": 70}),
            ("POST", "/trips", {"name": "Evening", "on_date": "2026-07-14"}),
        ]
        for method, path, body in steps:
            with self.subTest(f"{method} {path}"):
                done = self.client.request(
                    method, f"/api/v1{path}", json=body, headers={"idempotency-key": self.key()}
                ).json()
                undone = self.send("/undo", {"kind": done["kind"], "id": done["id"]})
                self.assertEqual(undone.status_code, 201, f"{done} {undone.text}")
        self.assertEqual([c["min_cm"] for c in self.get("/rules")], [None])
        self.assertEqual(self.get(f"/trips/{trip}/order")["boards"], [])
        self.assertEqual((self.get("/places"), self.get("/trips")["total"]), ([], 1))

    def test_the_bag_plan_is_sealed_bag_by_bag_and_a_retry_is_the_same_bag(self) -> None:
        trip = f"/trips/{self.trip()}"
        fish = self.made(f"{trip}/fish", {"species": "pollack", "length_cm": 68})
        for side, kg in (("A", 0.6), ("B", 0.58)):
            self.made(f"/fish/{fish}/weighings", {"piece": "fillet", "side": side, "weight_kg": kg})
        plan = self.get(f"{trip}/bag-plan")
        self.assertTrue(plan["fewest"])
        first = plan["bags"][0]
        body = {"parts": first["parts"], "weight_kg": first["kg"]}
        one, again = (
            self.send(f"{trip}/bags", body, key="seal-by-plan-1").json() for _ in range(2)
        )
        self.assertEqual(one["code"], again["code"])
        self.assertEqual(len(self.get(f"{trip}/bag-plan")["bags"]), len(plan["bags"]) - 1)
        bag = self.get(f"/bags/{one['code']}")
        self.assertAlmostEqual(bag["width_m"] * 100, first["width_cm"])
        self.assertEqual(self.send(f"{trip}/bags", body).status_code, 409)

    def test_wishes_of_crew_party_and_fish(self) -> None:
        trip = self.trip()
        (party,) = self.get(f"/trips/{trip}")["parties"]
        body = {"species": "pollack", "length_cm": 68, "party_id": party["id"]}
        fish = self.made(f"/trips/{trip}/fish", body)
        self.made("/wishes", {"species": "pollack", "size": "usual", "purpose": "smoke"})
        self.assertEqual(self.get(f"/fish/{fish}")["purpose"], "smoke")
        self.made(f"/parties/{party['id']}/wish", {"purpose": "grill", "keeps": ["collar"]})
        self.made(f"/fish/{fish}/wish", {"ways": ["head:off"], "pieces": ["fillet.B:raw"]})
        found = self.get(f"/fish/{fish}")
        self.assertEqual((found["purpose"], found["keeps"]), ("grill", ["collar"]))
        self.assertEqual(found["skins"], {"fillet.B": "off"})
        refused = self.send(f"/fish/{fish}/wish", {"purpose": "mummify"})
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(refused.json()["errors"][0]["field"], "purpose")

    def test_import_checks_then_accepts(self) -> None:
        trip = self.trip()
        text = "species,length\ncod,70\ncd,70\n"
        report = self.send(f"/trips/{trip}/import", {"text": text}).json()
        self.assertEqual([r["line"] for r in report["bad"]], [3])
        self.assertEqual(self.get(f"/trips/{trip}/fish"), [])
        self.send(f"/trips/{trip}/import", {"text": text, "accept": True})
        self.assertEqual(len(self.get(f"/trips/{trip}/fish")), 1)

    def test_the_guide_and_the_estimate(self) -> None:
        self.assertGreaterEqual(len(self.get("/species")), 9)
        self.assertEqual(self.get("/species/cod")["length_weight"]["source"], "memory")
        usual = self.get("/species/cod/weight?length_cm=70")
        self.assertTrue(usual["low"] < usual["value"] < usual["high"])

    def test_the_scale_reads_tares_and_says_when_it_is_gone(self) -> None:
        self.client.put("/api/v1/scale/stand-in", json={"load_kg": 0.031})
        self.ctx.scale.rest()
        self.assertAlmostEqual(self.get("/scale")["kg"], 0.031, delta=0.0011)
        self.assertAlmostEqual(
            self.client.post("/api/v1/scale/tare").json()["tare_kg"], 0.031, delta=0.0011
        )
        self.ctx.scale.unplug()
        gone = self.client.get("/api/v1/scale")
        self.assertEqual(gone.status_code, 503)
        self.assertEqual(gone.headers["content-type"], "application/problem+json")
        shown = self.client.get("/live/scale").json()
        self.assertTrue(shown["off"])
        self.assertIn("cable", shown["note"])

    def test_live_figures_speak_the_crews_units(self) -> None:
        path = "/live/weight?species=pollack&length=26.8"
        imperial = self.client.get(path, headers={"cookie": "units=imperial"}).json()
        self.assertRegex(imperial["value"], r"^\d lb \d+\.\d oz est\.$")
        self.assertEqual(self.client.get("/live/weight?species=pollack&length=x").status_code, 422)
        self.assertEqual(self.client.get("/live/weight?species=x&length=3").status_code, 404)
        self.assertEqual(self.client.get("/live/scale").json()["shown"], "0.000")


class ProblemTest(ApiTest):
    def test_errors_are_problem_documents_that_name_the_field(self) -> None:
        trip = self.trip()
        cases: list[tuple[str, dict[str, Any], int, str]] = [
            (f"/trips/{trip}/fish", {"species": "mackerel", "length_cm": 400}, 422, "length_cm"),
            (f"/trips/{trip}/fish", {"species": "cod", "length_cm": -4}, 422, "length_cm"),
            (f"/trips/{trip}/fish", {"species": "cod", "length_cm": 70, "speceis": "x"}, 422, "speceis"),
            (f"/trips/{trip}/fish", {"species": "cod", "length_cm": 70, "hooked_at": "9999-12-31T23:59:59-12:00"}, 422, "hooked_at"),
            (f"/trips/{trip}/fish", {"species": "cod", "length_cm": 70, "landed_at": "2026-07-14T10:00:00"}, 422, "landed_at"),
            (f"/trips/{trip}/fish", {"species": "x" * 300, "length_cm": 70}, 422, "species"),
            ("/trips/none/fish", {"species": "cod", "length_cm": 70}, 404, ""),
            ("/fish/none/weighings", {"piece": "gut", "weight_kg": 1}, 404, ""),
            ("/undo", {"kind": "trip", "id": trip}, 422, "kind"),
            ("/trips", {"name": "x", "harbour": "y", "on_date": "soon"}, 422, "on_date"),
        ]  # fmt: skip
        for path, body, status, field in cases:
            with self.subTest(path=path, body=str(body)[:70]):
                answer = self.send(path, body)
                problem = answer.json()
                self.assertEqual(answer.status_code, status, problem)
                self.assertEqual(answer.headers["content-type"], "application/problem+json")
                self.assertLessEqual(
                    {"type", "title", "status", "detail", "instance"}, set(problem)
                )
                if field:
                    self.assertIn(field, [e["field"] for e in problem["errors"]])
        self.assertEqual(self.get(f"/trips/{trip}/fish"), [])

    def test_nan_and_infinity_are_refused(self) -> None:
        trip = self.trip()
        for value in ("NaN", "Infinity", "-Infinity", "1e999"):
            with self.subTest(value=value):
                answer = self.client.post(
                    f"/api/v1/trips/{trip}/fish",
                    content=f'{{"species": "cod", "length_cm": {value}}}',
                    headers={"content-type": "application/json", "idempotency-key": self.key()},
                )
                self.assertEqual(answer.status_code, 422)
        self.assertEqual(
            self.client.get("/api/v1/species/cod/weight?length_cm=nan").status_code, 422
        )

    def test_a_write_without_a_key_or_with_a_used_one(self) -> None:
        self.assertEqual(
            self.client.post("/api/v1/places", json={"name": "chest"}).status_code, 422
        )
        first = self.send("/places", {"name": "chest"}, key="the-same-key")
        again = self.send("/places", {"name": "chest"}, key="the-same-key")
        other = self.send("/places", {"name": "kitchen"}, key="the-same-key")
        self.assertEqual(first.json()["id"], again.json()["id"])
        self.assertTrue(again.json()["repeated"])
        self.assertEqual(other.status_code, 409)
        self.assertEqual(len(self.get("/places")), 1)

    def test_a_repeated_seal_prints_once(self) -> None:
        trip = self.trip()
        fish = self.made(f"/trips/{trip}/fish", {"species": "cod", "length_cm": 70})
        side = self.made(
            f"/fish/{fish}/weighings", {"piece": "fillet", "side": "A", "weight_kg": 0.5}
        )
        for _ in range(3):
            self.send(f"/pieces/{side}/bags", {}, key="seal-just-once")
        self.ctx.labels.wait()
        self.assertEqual(len(self.ctx.printer.tray()), 1)


class OpenApiTest(ApiTest):
    def test_the_documentation_stands_on_shipped_files_only(self) -> None:
        page = self.client.get("/api/docs").text
        self.assertNotRegex(page, r"https?://")
        for path in ("vendor/swagger-ui/swagger-ui-bundle.js", "vendor/swagger-ui/swagger-ui.css"):
            self.assertEqual(self.client.get(f"/static/{path}").status_code, 200)

    def test_every_operation_is_described_and_pages_are_left_out(self) -> None:
        document = self.client.get("/api/openapi.json").json()
        self.assertTrue(all(path.startswith("/api/v1/") for path in document["paths"]))
        for path, methods in document["paths"].items():
            for method, operation in methods.items():
                with self.subTest(path=path, method=method):
                    self.assertTrue(operation.get("description"))
        self.assertGreater(len(document["paths"]), 25)

    def test_every_model_has_a_name_of_its_own(self) -> None:
        """Two of one name are told apart by their Python paths, which are nobody's business."""
        names = self.client.get("/api/openapi.json").json()["components"]["schemas"]
        self.assertGreater(len(names), 50)
        self.assertEqual([name for name in names if "__" in name], [])

    def test_health_says_schema_and_soundness(self) -> None:
        self.assertEqual(self.get("/health")["status"], "ok")
        self.assertEqual(self.get("/health")["schema"], migrate.steps()[-1][0])


if __name__ == "__main__":
    unittest.main()
