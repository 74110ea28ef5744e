from django.urls import path

from . import views

urlpatterns = [
    path("tests/<int:pk>/make/", views.make, name="make-forms"),
    path("form-sets/<int:pk>/", views.form_set, name="form-set"),
    path("form-sets/<int:pk>/progress/", views.progress, name="form-set-progress"),
    path("form-sets/<int:pk>/cancel/", views.cancel, name="cancel-form-set"),
    path("form-sets/<int:pk>/another/", views.another, name="another-set"),
    path("form-sets/<int:pk>/download/<slug:kind>/", views.printed, name="printed"),
    path("form-sets/<int:pk>/key.<slug:kind>", views.key_table, name="key-table"),
    path("form-sets/<int:pk>/keys/<slug:code>.pdf", views.form_key, name="form-key"),
    path("form-sets/<int:pk>/inserts/<int:insert>.pdf", views.insert_of_set, name="insert-of-set"),
    path("form-sets/<int:pk>/papers/<slug:code>.pdf", views.paper, name="paper"),
    path("form-sets/<int:pk>/papers/<slug:code>/", views.paper_beside, name="paper-beside"),
    path("form-sets/<int:pk>/papers/<slug:code>/<int:page>.png", views.paper_page, name="paper-page"),
]
