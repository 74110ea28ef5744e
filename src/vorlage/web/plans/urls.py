from django.urls import path

from . import newer, views

urlpatterns = [
    path("tests/", views.tests, name="tests"),
    path("tests/new/", views.new_test, name="new-test"),
    path("tests/from-tray/", views.from_tray, name="test-from-tray"),
    path("questions/<int:pk>/move-on/", views.move_on, name="move-on"),
    path("tests/<int:pk>/", views.test, name="test"),
    path("tests/<int:pk>/edit/", views.edit_test, name="edit-test"),
    path("tests/<int:pk>/archive/", views.archive_test, name="archive-test"),
    path("tests/<int:pk>/offers/", views.offers, name="offers"),
    path("tests/<int:pk>/add/<int:question>/", views.add_place, name="add-place"),
    path("tests/<int:pk>/arrange/", views.arrange, name="arrange"),
    path("tests/<int:pk>/places/<int:place>/move/", views.move_place, name="move-place"),
    path("tests/<int:pk>/places/<int:place>/remove/", views.remove_place, name="remove-place"),
    path("tests/<int:pk>/places/<int:place>/newer/", newer.newer, name="newer"),
    path("tests/<int:pk>/places/<int:place>/renew/", views.renew_place, name="renew-place"),
]
