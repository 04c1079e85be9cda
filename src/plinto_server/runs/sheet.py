"""The run sheet as a page to read and print."""

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from plinto_server.runs.models import Run


@login_required(login_url="/sign-in")
def sheet_page(request: HttpRequest, run_id: int) -> HttpResponse:
    """How one file was made; 404 where there is no file."""
    run = Run.objects.filter(id=run_id, state=Run.State.DONE).first()
    if run is None:
        raise Http404
    return render(request, "run_sheet.html", {"run": run, "sheet": run.run_sheet})
