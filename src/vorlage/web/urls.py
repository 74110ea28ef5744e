"""All addresses of the application."""

from django.urls import include, path
from django.views.generic import RedirectView

urlpatterns = [
    path("", RedirectView.as_view(pattern_name="questions"), name="home"),
    path("", include("vorlage.web.accounts.urls")),
    path("", include("vorlage.web.questions.urls")),
    path("", include("vorlage.web.papers.urls")),
    path("", include("vorlage.web.design.urls")),
]

handler404 = "vorlage.web.design.views.not_found"
handler500 = "vorlage.web.design.views.server_error"
handler403 = "vorlage.web.design.views.forbidden"
