from django.urls import path

from . import views

urlpatterns = [
    path("tests/", views.tests, name="tests"),
    path("tests/new/", views.new_test, name="new-test"),
    path("tests/<int:pk>/", views.test, name="test"),
    path("tests/<int:pk>/edit/", views.edit_test, name="edit-test"),
    path("tests/<int:pk>/offers/", views.offers, name="offers"),
    path("tests/<int:pk>/add/<int:question>/", views.add_place, name="add-place"),
    path("tests/<int:pk>/arrange/", views.arrange, name="arrange"),
    path("tests/<int:pk>/places/<int:place>/move/", views.move_place, name="move-place"),
    path("tests/<int:pk>/places/<int:place>/remove/", views.remove_place, name="remove-place"),
    path("tests/<int:pk>/places/<int:place>/renew/", views.renew_place, name="renew-place"),
    path("tests/<int:pk>/make/", views.make, name="make-forms"),
    path("form-sets/<int:pk>/", views.form_set, name="form-set"),
    path("form-sets/<int:pk>/progress/", views.progress, name="form-set-progress"),
    path("form-sets/<int:pk>/cancel/", views.cancel, name="cancel-form-set"),
    path("form-sets/<int:pk>/download/<slug:kind>/", views.printed, name="printed"),
    path("form-sets/<int:pk>/papers/<slug:code>.pdf", views.paper, name="paper"),
    path("form-sets/<int:pk>/papers/<slug:code>/", views.paper_beside, name="paper-beside"),
    path("form-sets/<int:pk>/papers/<slug:code>/<int:page>.png", views.paper_page, name="paper-page"),
]
