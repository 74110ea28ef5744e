from django.urls import path, re_path

from . import pictures, views

urlpatterns = [
    path("questions/", views.questions, name="questions"),
    path("questions/gallery/", views.gallery, name="gallery"),
    path("questions/<int:pk>/history/", views.history, name="question-history"),
    re_path(r"^questions/pictures/(?P<digest>[0-9a-f]{64})/$", pictures.picture, name="picture"),
]
