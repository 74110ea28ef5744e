from django.urls import path

from . import views

urlpatterns = [
    path("questions/bring/", views.bring, name="bring"),
    path("questions/bring/take/", views.take, name="take-brought"),
    path("questions/bring/formulas/", views.formulas_for, name="formulas-for"),
    path("questions/bring/sheet/", views.laid, name="laid"),
    path("questions/bring/questions.csv", views.table_template, name="table-template"),
    path("questions/bring/layout/", views.plain_layout, name="plain-layout"),
    path("questions/bring/<int:pk>/", views.intake, name="intake"),
    path("questions/bring/<int:pk>/<int:number>/", views.brought, name="brought"),
    path("questions/bring/<int:pk>/decide/", views.decide, name="decide"),
    path("questions/bring/<int:pk>/do/", views.with_intake, name="with-intake"),
    path("questions/out/", views.take_out, name="take-out"),
    path("questions/out/<int:pk>/", views.outgoing, name="outgoing"),
    path("questions/out/<int:pk>/stop/", views.stop_outgoing, name="stop-outgoing"),
    path("questions/out/<int:pk>/file/", views.outgoing_file, name="outgoing-file"),
]
