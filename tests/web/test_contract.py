"""The API keeps its document, whatever is asked: a bounded run; `bench.contract` is the long one."""

import logging

from lepidos.store.records import Bag
from lepidos.web.api.views.freezer import BagOut
from tests.web.client import WebTest
from tests.web.contract import Contract


class ContractTest(WebTest):
    def test_every_answer_is_as_the_document_says_and_every_page_still_stands(self) -> None:
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        run = Contract(self.client, 7)
        self.assertGreater(len(run.operations), 50)
        self.assertEqual(run.run(2)[:5], [])
        # it is no run when nothing was accepted or nothing refused
        self.assertGreater(run.statuses[200] + run.statuses[201], 40)
        self.assertGreater(run.statuses[422], 40)

    def test_every_answer_says_what_is_in_it(self) -> None:
        document = self.client.get("/api/openapi.json").json()
        answers = {
            f"{method} {path}": content["schema"]
            for path, methods in document["paths"].items()
            for method, operation in methods.items()
            for status in ("200", "201")
            for kind, content in operation["responses"].get(status, {}).get("content", {}).items()
            if kind == "application/json"
        }
        self.assertGreater(len(answers), 50)
        for name, schema in answers.items():
            with self.subTest(name):
                whole = schema.get("items", schema)
                self.assertTrue("$ref" in whole or all("$ref" in s for s in whole["anyOf"]))

    def test_a_bag_shows_every_column_but_those_of_other_rows(self) -> None:
        left_out = {"trip_id", "party_id", "sealed_at"}
        self.assertEqual(set(Bag._fields) - set(BagOut.model_fields), left_out)

    def test_a_refusal_is_documented_as_it_is_answered(self) -> None:
        document = self.client.get("/api/openapi.json").json()
        for path, methods in document["paths"].items():
            for method, operation in methods.items():
                told = operation["responses"]["422"]["content"]
                self.assertEqual(list(told), ["application/problem+json"], f"{method} {path}")
        self.assertNotIn("HTTPValidationError", document["components"]["schemas"])
        answer = self.client.get("/api/v1/trips/nobody")
        fields = document["components"]["schemas"]["Problem"]
        self.assertEqual(answer.headers["content-type"], "application/problem+json")
        self.assertLessEqual(set(fields["required"]), set(answer.json()))
