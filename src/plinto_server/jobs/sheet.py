"""The run sheet as a page to read and print."""

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from plinto_core.deliver.in_words import adjust_in_words, deliver_in_words, plate_in_words
from plinto_core.pdf.report import as_page
from plinto_core.recipe import recipe_from_json
from plinto_server.jobs.models import Run


@login_required(login_url="/sign-in")
def sheet_page(request: HttpRequest, run_id: int) -> HttpResponse:
    """How one file was made; 404 where there is no file."""
    run = Run.objects.filter(id=run_id, state=Run.State.DONE, kind__in=("separation", "document")).first()
    if run is None or run.run_sheet is None:
        return render(request, "no_sheet.html", status=404)
    if run.kind == "document":
        return HttpResponse(as_page(run.run_sheet, run.run_sheet.get("thumbnails", {})))
    recipe = recipe_from_json(run.run_sheet["recipe"])
    words = {
        "adjusted": adjust_in_words(recipe),
        "plated": plate_in_words(recipe),
        "delivered": deliver_in_words(recipe),
    }
    return render(request, "run_sheet.html", {"run": run, "sheet": run.run_sheet, **words})
