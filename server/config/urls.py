"""Routes: the API, sign-in, and the page for everything else."""

from apps.keeper.metrics import metrics, ready
from apps.reports.views import shared_pdf, shared_sheet
from django.http import HttpRequest, HttpResponse
from django.urls import include, path, re_path
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie

from config.api import api
from config.pages import index, worker
from config.problems import problem


def no_such_api(request: HttpRequest) -> HttpResponse:
    """Unknown addresses below /api are problems, not pages."""
    return problem(404, "not_found", "Nothing is at this address.")


# Of the sign-in package, what the page asks; the rest (addresses of people, sign-up, telephones) nobody reaches.
SIGN_IN = "|".join(
    (
        "auth/login", "auth/session", "auth/sessions", "auth/reauthenticate", "auth/2fa/authenticate",
        "auth/password/request", "auth/password/reset", "account/password/change", "account/authenticators/totp",
        "account/authenticators/recovery-codes",
    )
)  # fmt: skip

urlpatterns = [
    path("api/v1/", api.urls),
    path("-/metrics", metrics),
    path("-/ready", ready),
    path("sw.js", never_cache(worker)),
    path("sheet/<str:token>", shared_sheet),
    path("sheet/<str:token>/pdf", shared_pdf),
    re_path(rf"^_allauth/(?!browser/v1/(?:{SIGN_IN})$)", no_such_api),
    path("_allauth/", include("allauth.headless.urls")),
    re_path(r"^(?:api|_allauth|static)/", no_such_api),
    re_path(r"^", never_cache(ensure_csrf_cookie(index))),
]
