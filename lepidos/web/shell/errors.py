"""Every error of ours becomes a status and a sentence: a page for people, RFC 9457 for scripts."""

import contextlib
import inspect
from collections.abc import Callable
from http import HTTPStatus

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.routing import NoMatchFound
from starlette.types import Receive, Scope, Send

from lepidos.core.errors import (
    BadInput,
    CannotWorkOut,
    Conflict,
    LepidosError,
    OutOfRange,
    Refused,
    Unknown,
)
from lepidos.devices.scale import DeviceError
from lepidos.store.file.file_problems import FileProblem, FullDisk
from lepidos.web.shell.render import page

log = structlog.get_logger()

STATUS: dict[type[LepidosError], int] = {
    Unknown: 404,
    Conflict: 409,
    CannotWorkOut: 409,
    Refused: 422,
    OutOfRange: 422,
    BadInput: 422,
    DeviceError: 503,
    FullDisk: 507,
    FileProblem: 503,
}
LATER_S = 5  # what is wrong with the file may be mended: nobody's entry is at fault
TITLES = {
    400: "That request does not fit",
    401: "Not let in yet",
    403: "Not from here",
    404: "Not here",
    405: "Not this way",
    408: "Too slow",
    409: "Something has happened since",
    413: "Too large",
    422: "Look at this again",
    429: "Too much at once",
    500: "Something broke on our side",
    503: "A device does not answer",
    507: "No room on the disk",
}


def problem_json(
    status: int, detail: str, instance: str, fields: dict[str, str] | None = None
) -> JSONResponse:
    """A problem document after RFC 9457; `errors` names the fields."""
    body: dict[str, object] = {
        "type": "about:blank",
        "title": TITLES.get(status, HTTPStatus(status).phrase),
        "status": status,
        "detail": detail,
        "instance": instance,
    }
    if fields:
        body["errors"] = [{"field": k, "detail": v} for k, v in fields.items()]
    return JSONResponse(body, status, media_type="application/problem+json")


def is_api(request: Request) -> bool:
    """Whether a script is asking."""
    wanted = request.headers.get("accept", "")
    return wanted == "application/json" or request.url.path.startswith(("/api/", "/live/"))


def answer(
    request: Request, status: int, detail: str, fields: dict[str, str] | None = None
) -> Response:
    """The error as a page, or as a problem document."""
    if is_api(request):
        return problem_json(status, detail, request.url.path, fields)
    response = page(
        request,
        "shell/error.html",
        status=status,
        title=TITLES.get(status, HTTPStatus(status).phrase),
        detail=detail,
        fields={k: v for k, v in (fields or {}).items() if k},
    )
    response.status_code = status
    return response


def _status(error: LepidosError) -> int:
    return next((code for kind, code in STATUS.items() if isinstance(error, kind)), 500)


def ours(request: Request, error: Exception) -> Response:
    """What the app says of its own errors: at their form, or on a page of their own."""
    if not isinstance(error, LepidosError):
        raise error
    status = _status(error)
    fields = {"": str(error)}
    if isinstance(error, Refused):
        fields = error.problems
    elif isinstance(error, OutOfRange):
        fields = {error.name: str(error)}
    again = getattr(request.scope.get("endpoint"), "again", None)
    problem = error if isinstance(error, FileProblem) else None
    if problem:
        log.error("data file", detail=str(error))
    else:
        log.info("refused", path=request.url.path, status=status, detail=str(error)[:300])
    if again and (status in {409, 422} or problem) and not is_api(request):
        request.state.problems = fields
        # the page itself may be gone by now: then the plain error page says so
        with contextlib.suppress(LepidosError):
            wanted = inspect.signature(again).parameters
            parts = {k: v for k, v in request.path_params.items() if k in wanted}
            request.state.shown_at = _address_of(request, again, parts)
            response: Response = again(request, **parts)
            response.status_code = status
            return _later(response) if problem else response
    if problem is None:
        return answer(request, status, str(error), fields)
    return _later(_about_file(request, status, problem))


def _address_of(request: Request, show: Callable[..., Response], parts: dict[str, str]) -> str:
    """Where a page can be asked for; "" when it has no address of its own."""
    with contextlib.suppress(NoMatchFound):
        return str(request.app.url_path_for(show.__name__, **parts))
    return ""


def _about_file(request: Request, status: int, problem: FileProblem) -> Response:
    if is_api(request):
        return problem_json(status, str(problem), request.url.path)
    title = TITLES[507] if status == 507 else "The data file"
    more = {"means": problem.means, "do": problem.do}
    response = page(
        request, "shell/error.html", status=status, title=title, detail=problem.what, fields=more
    )
    response.status_code = status
    return response


def _later(response: Response) -> Response:
    response.headers["retry-after"] = str(LATER_S)
    return response


def _http(request: Request, error: Exception) -> Response:
    if not isinstance(error, HTTPException):
        raise error
    detail = {
        404: "There is nothing at this address.",
        405: "This address cannot be used that way.",
    }
    return answer(request, error.status_code, detail.get(error.status_code, str(error.detail)))


def _shape(request: Request, error: Exception) -> Response:
    if not isinstance(error, RequestValidationError):
        raise error
    fields = {
        ".".join(
            str(part) for part in e["loc"] if part not in {"body", "query", "path", "header"}
        ): str(e["msg"])
        for e in error.errors()
    }
    return answer(request, 422, "Some fields do not fit", fields)


def install(app: FastAPI) -> None:
    """Put the handlers in."""
    app.add_exception_handler(LepidosError, ours)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(RequestValidationError, _shape)


async def refuse(scope: Scope, receive: Receive, send: Send, status: int, detail: str) -> None:
    """The guard's answer, before routing."""
    request = Request(scope, receive)
    response = await run_in_threadpool(answer, request, status, detail)
    await response(scope, receive, send)
