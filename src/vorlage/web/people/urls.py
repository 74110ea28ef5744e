from django.urls import path

from . import second_step, staff, views

# Names that begin with account_ or mfa_ are those that allauth looks for.
urlpatterns = [
    path("sign-in/", views.SignInView.as_view(), name="account_login"),
    path("sign-out/", views.sign_out, name="account_logout"),
    path("password/", views.ChangePassword.as_view(), name="change-password"),
    path("password/forgotten/", views.forgotten_password, name="forgotten-password"),
    path("password/<str:uidb64>/<str:token>/", views.SetPassword.as_view(), name="set-password"),
    path("sign-in/second-step/", second_step.SecondStep.as_view(), name="mfa_authenticate"),
    path("sign-in/again/", second_step.Again.as_view(), name="account_reauthenticate"),
    path("sign-in/again/figure/", second_step.Again.as_view(), name="mfa_reauthenticate"),
    path("second-step/", second_step.second_step, name="mfa_index"),
    path("second-step/set-up/", second_step.SetUp.as_view(), name="mfa_activate_totp"),
    path("second-step/take-away/", second_step.TakeAway.as_view(), name="mfa_deactivate_totp"),
    path("second-step/codes/", second_step.Codes.as_view(), name="mfa_view_recovery_codes"),
    path("second-step/codes/new/", second_step.NewCodes.as_view(), name="mfa_generate_recovery_codes"),
    path("session/", views.session, name="session"),
    path("account-closed/", views.account_closed, name="account_inactive"),
    path("department/settings/", views.department_settings, name="department-settings"),
    path("departments/<int:department>/settings/", views.department_settings, name="settings-of-department"),
    path("departments/new/", staff.new_department, name="new-department"),
    path("people/", staff.people, name="people"),
    path("people/invite/", staff.invite, name="invite"),
    path("people/<int:pk>/", staff.person, name="person"),
    path("people/<int:pk>/roles/", staff.set_roles, name="set-roles"),
    path("people/<int:pk>/account/", staff.with_person, name="with-person"),
    path("people/<int:pk>/hand-over/", staff.hand_over_all, name="hand-over"),
    path("school/", staff.school, name="school"),
    path("departments/<int:department>/change/", views.change_department, name="change-department"),
]
