"""The yield book over the API."""

from fastapi import APIRouter, Request
from fastapi.responses import PlainTextResponse

from lepidos.stations.yieldbook import yieldbook
from lepidos.web.api.views import yieldbook as yieldbook_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


class CsvResponse(PlainTextResponse):
    """A table as text, RFC 4180."""

    media_type = "text/csv"


@router.get("/trips/{trip_id}/yieldbook", tags=["yield book"])
def get_book(request: Request, trip_id: str) -> yieldbook_views.BookOut:
    """What every fish of a trip gave."""
    return yieldbook_views.book(yieldbook.view_book(context_of(request), trip_id))


@router.get("/trips/{trip_id}/yieldbook.csv", tags=["yield book"], response_class=CsvResponse)
def get_book_csv(request: Request, trip_id: str) -> CsvResponse:
    """The same as CSV."""
    return CsvResponse(yieldbook.book_csv(context_of(request), trip_id))
