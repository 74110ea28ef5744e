"""One budget for every request: whatever is asked for, it ends, and says so."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from vorlage.core.budget import OutOfBudget, budgeted

from .views import page

# What any request may take, in steps and in seconds of the processor. What is likely to take long has less, and says
# more: at the field that costs.
MAXIMUM_STEPS, MAXIMUM_SECONDS = 7_000_000, 4.5
TOO_LONG = "This takes too long to be worked out, and was ended. Make it simpler or shorter, and send it again."


class BudgetMiddleware:
    """Ends what would hold up everybody else."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        with budgeted(MAXIMUM_STEPS, MAXIMUM_SECONDS):
            return self.get_response(request)

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        if isinstance(exception, OutOfBudget):
            return page(request, 422, "Too much at once", TOO_LONG)
        return None
