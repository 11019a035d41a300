"""The API's document: FastAPI's own, with every refusal as it is really answered (RFC 9457)."""

from http import HTTPStatus
from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi
from pydantic import BaseModel

from lepidos.web.shell.errors import TITLES

ANY = (400, 401, 403, 404, 409, 413, 422, 429, 503)
WRITES = (408, 507)
PROBLEM = "application/problem+json"
_REF = {"schema": {"$ref": "#/components/schemas/Problem"}}


class FieldProblem(BaseModel):
    """What is wrong with one field; `field` is "" for the whole."""

    field: str
    detail: str


class Problem(BaseModel):
    """Why something was not done. After RFC 9457; `errors` names the fields."""

    type: str
    title: str
    status: int
    detail: str
    instance: str
    errors: list[FieldProblem] | None = None


def document(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document, made once."""
    if not app.openapi_schema:
        made = get_openapi(
            title=app.title, version=app.version, description=app.description, routes=app.routes
        )
        parts = made["components"]["schemas"]
        parts.pop("HTTPValidationError", None)
        parts.pop("ValidationError", None)
        problem = Problem.model_json_schema(ref_template="#/components/schemas/{model}")
        parts |= problem.pop("$defs") | {"Problem": problem}
        for methods in made["paths"].values():
            for method, operation in methods.items():
                _say_refusals(method, operation)
        app.openapi_schema = made
    return app.openapi_schema


def _say_refusals(method: str, operation: dict[str, Any]) -> None:
    for status in ANY if method == "get" else (*ANY, *WRITES):
        title = TITLES.get(status, HTTPStatus(status).phrase)
        operation["responses"][str(status)] = {"description": title, "content": {PROBLEM: _REF}}
