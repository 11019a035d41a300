"""The API keeps its document, whatever is asked: a bounded run; `bench.contract` is the long one."""

import logging

from tests.web.client import WebTest
from tests.web.contract import Contract


class ContractTest(WebTest):
    def test_every_answer_is_as_the_document_says_and_every_page_still_stands(self) -> None:
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        run = Contract(self.client, 7)
        self.assertGreater(len(run.operations), 50)
        self.assertEqual(run.run(3)[:5], [])
        # it is no run when nothing was accepted or nothing refused
        self.assertGreater(run.statuses[200] + run.statuses[201], 40)
        self.assertGreater(run.statuses[422], 40)

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
