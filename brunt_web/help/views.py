"""Help: the user guide, the methods and the words, inside the application."""

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_web.help import pages


@require_GET
def contents(request: HttpRequest) -> HttpResponse:
    """All pages, or what was found in them."""
    words = " ".join(request.GET.get("q", "").split())[:80]
    context = {"shelves": pages.shelves(), "words": words, "found": pages.search_sections(words)}
    return render(request, "help/contents.html", context)


@require_GET
def help_page_view(request: HttpRequest, key: str) -> HttpResponse:
    """One page."""
    found = pages.page(key)
    if found is None:
        raise Http404
    return render(request, "help/page.html", {"page": found, "shelves": pages.shelves()})


@require_GET
def picture_view(request: HttpRequest, name: str) -> FileResponse:
    """A screenshot of the guide."""
    found = pages.picture(name)
    if found is None:
        raise Http404
    return FileResponse(found.open("rb"), content_type="image/png")
