from django.urls import path

from . import views

urlpatterns = [
    path("classes/", views.classes, name="classes"),
    path("classes/new/", views.new_class, name="new-class"),
    path("classes/<int:pk>/", views.class_page, name="class"),
    path("classes/<int:pk>/edit/", views.edit_class, name="edit-class"),
    path("classes/<int:pk>/drop/", views.drop_class, name="drop-class"),
    path("classes/<int:pk>/add/", views.add_students, name="add-students"),
    path("classes/<int:pk>/students/", views.with_students, name="with-students"),
    path("classes/<int:pk>/undo/", views.undo, name="undo-class"),
    path("classes/<int:pk>/slips/", views.slips, name="slips"),
    path("classes/<int:pk>/list.<str:kind>", views.class_list, name="class-list"),
    path("students/", views.students, name="students"),
    path("students/<int:pk>/", views.student, name="student"),
    path("students/<int:pk>/edit/", views.edit_student, name="edit-student"),
    path("students/<int:pk>/allowance/", views.edit_allowance, name="edit-allowance"),
    path("mine/", views.mine, name="mine"),
]
