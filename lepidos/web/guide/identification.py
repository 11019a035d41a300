"""Which fish is it: keys for fish that look alike, drawn."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.errors import BadInput
from lepidos.core.fish.identification import LookAlike, Standing, stand
from lepidos.stations.base.waters import is_at_home
from lepidos.web.drawings import fish
from lepidos.web.shell.current import current_view
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)

MAX_ANSWERS = 20


@router.get("/which-fish")
def list_keys(request: Request) -> Response:
    """Every key."""
    ctx = context_of(request)
    at_home = is_at_home(ctx)

    def far(key: LookAlike) -> bool:
        """None of its fish is of the home waters."""
        found = [ctx.guide.species[c.species] for c in key.candidates if c.species]
        return not any(map(at_home, found))

    return page(
        request,
        "guide/which_fish.html",
        current_view(request),
        here="guide",
        keys=sorted(ctx.guide.lookalikes.values(), key=far),
    )


@router.get("/which-fish/{key}")
def follow_key(request: Request, key: str) -> Response:
    """A key with the answers so far; each narrows the list."""
    ctx = context_of(request)
    one = ctx.guide.lookalike(key)
    answers = request.query_params.getlist("a")
    if len(answers) > MAX_ANSWERS:
        raise BadInput("That is more answers than the key has questions")
    standing = stand(one, answers)
    return page(
        request,
        "guide/follow_key.html",
        current_view(request),
        here="guide",
        key=one,
        standing=standing,
        given=[f"{q.key}.{a.key}" for q, a in standing.answered],
        drawn={
            c.key: fish.fish_svg(ctx.guide, ctx.guide.one(c.species))
            for c in standing.left
            if c.species
        },
        protected=_careful(standing),
    )


def _careful(standing: Standing) -> list[str]:
    """Names of those left that are often protected."""
    return [c.name for c in standing.left if c.careful]
