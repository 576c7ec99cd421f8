"""What other programs read, under `/api/v1/`: the addresses, and the OpenAPI file that describes them."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.urls import URLPattern, path
from django.views.decorators.cache import cache_control
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError
from ninja.openapi.schema import OpenAPISchema

from stations.api.answers import PROBLEM, not_answered, not_understood
from stations.api.door import ByToken
from stations.api.views.reading import router


class ReadApi(NinjaAPI):
    """As its file says, problems come as what RFC 9457 calls them."""

    def get_openapi_schema(self, **options: Any) -> OpenAPISchema:
        described = super().get_openapi_schema(**options)
        for operations in described["paths"].values():
            for status, answer in operations["get"]["responses"].items():
                if int(status) >= 400:
                    answer["content"] = {PROBLEM: answer["content"]["application/json"]}
        return described


api = ReadApi(
    title="Wendopolis",
    version="1",
    description="What a workshop knows of its units, lots, stock and book, to read. "
    "Amounts are text with two decimals, moments are in UTC, what nobody recorded is null.",
    urls_namespace="api",
    docs_url=None,
    openapi_extra={"info": {"license": {"name": "MIT"}}},
    auth=ByToken(),
)
api.add_router("", router)
# An error is raised, never its class.
api.add_exception_handler(HttpError, not_answered)  # type: ignore[arg-type]
api.add_exception_handler(ValidationError, not_understood)  # type: ignore[arg-type]


def _read(pattern: URLPattern) -> URLPattern:
    """Without the sign-in of people, since a token is shown; never kept on the way; HEAD where GET is answered."""
    view: Callable[..., HttpResponse] = pattern.callback

    @wraps(view)
    def read(request: HttpRequest, *args, **kwargs) -> HttpResponse:
        asked = request.method
        request.method = "GET" if asked == "HEAD" else asked
        answer = view(request, *args, **kwargs)
        request.method = asked
        return answer

    opened = login_not_required(cache_control(private=True, no_store=True)(read))
    return path(str(pattern.pattern), opened, name=pattern.name)


patterns, app_name, _ = api.urls
urlpatterns = [
    pattern if pattern.name == "openapi-json" else _read(pattern)
    for pattern in patterns
    if isinstance(pattern, URLPattern)
]
