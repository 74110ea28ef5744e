from django.urls import path

from . import views

# The names of the first three are those that allauth looks for.
urlpatterns = [
    path("sign-in/", views.SignInView.as_view(), name="account_login"),
    path("sign-out/", views.sign_out, name="account_logout"),
    path("password/", views.ChangePassword.as_view(), name="change-password"),
    path("password/forgotten/", views.forgotten_password, name="forgotten-password"),
    path("password/<str:uidb64>/<str:token>/", views.SetPassword.as_view(), name="set-password"),
    path("session/", views.session, name="session"),
    path("account-closed/", views.account_closed, name="account_inactive"),
    path("department/settings/", views.department_settings, name="department-settings"),
    path("departments/<int:department>/change/", views.change_department, name="change-department"),
]
