from django.urls import path

from . import road, student, views

urlpatterns = [
    path("sittings/", views.sittings, name="sittings"),
    path("tests/<int:pk>/give/", views.give, name="give-test"),
    path("sittings/<int:pk>/", views.sitting, name="sitting"),
    path("sittings/<int:pk>/table/", views.table, name="sitting-table"),
    path("sittings/<int:pk>/rules/", views.sitting_rules, name="sitting-rules"),
    path("sittings/<int:pk>/rules/say/", views.say_rules, name="say-sitting-rules"),
    path("sittings/<int:pk>/rules/keep/", views.keep_rules, name="keep-sitting-rules"),
    path("sittings/<int:pk>/rules/take/", views.take_rules, name="take-sitting-rules"),
    path("sittings/<int:pk>/act/", views.act, name="act-in-sitting"),
    path("sittings/<int:pk>/tell/", views.tell, name="tell-sitting"),
    path("sittings/<int:pk>/release/", views.release, name="release-sitting"),
    path("sit/<int:pk>/", student.sit, name="sit"),
    path("sit/<int:pk>/begin/", student.begin, name="begin-sitting"),
    path("sit/<int:pk>/sheet/", student.work, name="sit-work"),
    path("sit/<int:pk>/inserts/<int:insert>/<int:page>.png", student.insert_page, name="sit-insert"),
    path("sit/<int:pk>/check/", student.before_handing_in, name="before-handing-in"),
    path("sit/<int:pk>/hand-in/", student.hand_in, name="hand-in"),
    path("sit/<int:pk>/done/", student.done, name="sitting-done"),
    path("sit/<int:pk>/take-back/", student.take_back, name="take-sitting-back"),
    path("s/save/", road.save, name="save-answers"),
    path("s/read/", road.read, name="read-answer"),
    path("s/changes/", road.changes, name="what-changed"),
    path("s/hand-in/", road.hand_in, name="hand-in-late"),
]
