"""All addresses of the application."""

from django.urls import include, path

from vorlage.web.find.views import home

urlpatterns = [
    path("", home, name="home"),
    path("", include("vorlage.web.people.urls")),
    path("", include("vorlage.web.classes.urls")),
    path("", include("vorlage.web.bank.urls")),
    path("", include("vorlage.web.exchange.urls")),
    path("", include("vorlage.web.desk.urls")),
    path("", include("vorlage.web.plans.urls")),
    path("", include("vorlage.web.forms.urls")),
    path("", include("vorlage.web.seating.urls")),
    path("", include("vorlage.web.sittings.urls")),
    path("", include("vorlage.web.marking.urls")),
    path("", include("vorlage.web.find.urls")),
]

handler404 = "vorlage.web.design.views.not_found"
handler500 = "vorlage.web.design.views.server_error"
handler403 = "vorlage.web.design.views.forbidden"
