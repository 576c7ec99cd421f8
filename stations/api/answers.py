"""The form of every answer: a page of a list with where the next one is, or what is wrong (RFC 9457)."""

from collections.abc import Callable, Sequence
from decimal import Decimal
from http import HTTPStatus
from math import ceil
from typing import Annotated, Any, TypeVar
from urllib.parse import urlencode

from django.db.models import Model, QuerySet
from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Field, Schema
from ninja.errors import HttpError, Throttled, ValidationError

from stations.common.snapshot import one_moment

M = TypeVar("M", bound=Model)
R = TypeVar("R", bound=Schema)

MOST, USUAL = 200, 100
PROBLEM = "application/problem+json"

Money = Annotated[Decimal, Field(description="An amount in `currency`, as text with two decimals.")]
Amount = Annotated[Decimal, Field(description="An amount in `measure`, as text with three decimals.")]
LotCode = Annotated[str, Field(pattern=r"^L-\d{1,9}$", description="The code of a lot: L-007.")]
Currency = Annotated[str, Field(description="The currency of the shop’s books, by ISO 4217.")]


def number_of(code: LotCode) -> int:
    """The number of a lot, by its code."""
    return int(code.removeprefix("L-"))


class Asked(Schema):
    """Which page of a list is asked for. What else an address says is refused, not left unread."""

    after: Annotated[int, Field(ge=0, description="Begin after this key, which `next` of the page before says.")] = 0
    limit: Annotated[int, Field(ge=1, le=MOST, description="How many there are on a page.")] = USUAL


class PageOf(Schema):
    """Where a list goes on."""

    next: Annotated[str | None, Field(description="The address of the next page; null on the last.")]


class Wrong(Schema):
    """One parameter, and what is wrong with it."""

    parameter: str
    says: str


class Problem(Schema):
    """What is wrong, by RFC 9457."""

    type: str
    title: str
    status: int
    detail: str
    wrong: list[Wrong] | None = None


def refuse_unknown(request: HttpRequest, asked: Asked) -> None:
    """A filter that is written wrong would else let everything through."""
    if unknown := sorted(set(request.GET) - set(type(asked).model_fields)):
        known = ", ".join(type(asked).model_fields)
        raise ValidationError(
            [{"loc": ["query", name], "msg": f"There is none; known are {known}"} for name in unknown]
        )


def page_of(
    request: HttpRequest,
    asked: Asked,
    rows: "QuerySet[M]",
    told: Callable[[list[M]], Sequence[R]],
    key: str = "pk",
) -> dict[str, Any]:
    """The rows after the key that is asked for, by that key: far down as quick as at the head, and nothing twice. All
    that is told of them is of one moment."""
    refuse_unknown(request, asked)
    with one_moment():
        found = list(rows.filter(**{f"{key}__gt": asked.after}).order_by(key)[: asked.limit + 1])
        shown = found[: asked.limit]
        items = told(shown)
    following = None
    if len(found) > len(shown):
        said = {name: value for name, value in request.GET.items() if name != "after"}
        query = urlencode(said | {"after": getattr(shown[-1], key)})
        following = request.build_absolute_uri(f"{request.path}?{query}")
    return {"items": items, "next": following}


def problem(status: int, detail: str, wrong: list[dict[str, str]] | None = None) -> HttpResponse:
    title = HTTPStatus(status).phrase
    told = {"type": "about:blank", "title": title, "status": status, "detail": detail}
    return JsonResponse(told | ({"wrong": wrong} if wrong else {}), status=status, content_type=PROBLEM)


def not_answered(request: HttpRequest, error: HttpError) -> HttpResponse:
    """Without a token that opens (RFC 6750, section 3), too often (RFC 6585, section 4), or of what there is none."""
    if isinstance(error, Throttled):
        answer = problem(429, "This token asks more often than it may.")
        answer["Retry-After"] = str(ceil(error.wait or 1))
    elif error.status_code == 401:
        answer = problem(401, "Send a token that reads: Authorization: Bearer wendopolis_…")
        answer["WWW-Authenticate"] = 'Bearer realm="Wendopolis"'
    else:
        answer = problem(error.status_code, str(error))
    return answer


def not_understood(request: HttpRequest, error: ValidationError) -> HttpResponse:
    wrong = [{"parameter": str(one["loc"][-1]), "says": one["msg"]} for one in error.errors]
    return problem(422, "What was asked can’t be understood.", wrong)
