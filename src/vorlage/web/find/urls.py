from django.urls import path

from . import views

urlpatterns = [path("jump/", views.jump, name="jump")]
