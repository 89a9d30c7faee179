from django.contrib.auth.views import LogoutView
from django.urls import path

from brunt_web.people import people_views, second_views, views

urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-in/second/", second_views.second_step, name="second-step"),
    path("account/app/", second_views.app, name="second-app"),
    path("account/second/off/", second_views.second_off, name="second-off"),
    path("account/passkey/", second_views.passkey, name="passkey"),
    path("account/passkey/<int:pk>/off/", second_views.passkey_off, name="passkey-off"),
    path("sign-in/demo/", views.demo_sign_in, name="demo-sign-in"),
    path("workshops/<int:pk>/sit-down/", views.sit_down_view, name="sit-down"),
    path("people/", people_views.everybody, name="people"),
    path("people/invite/", people_views.invite_view, name="invite"),
    path("people/invitations/<int:pk>/back/", people_views.invite_back, name="invite-back"),
    path("people/<int:pk>/role/", people_views.person_role, name="person-role"),
    path("people/<int:pk>/off/", people_views.person_off, name="person-off"),
    path("people/<int:pk>/on/", people_views.person_on, name="person-on"),
    path("people/<int:pk>/password/", people_views.new_password, name="new-password"),
    path("account/", people_views.account, name="account"),
    path("account/ways/", people_views.account_ways, name="account-ways"),
    path("account/password/", people_views.account_password, name="account-password"),
    path("account/sessions/end/", people_views.end_sessions_view, name="end-sessions"),
    path("account/leave/", people_views.leave_view, name="leave"),
    path("join/<str:token>/", people_views.join_view, name="join"),
    path(
        "new-password/<str:key>/<str:token>/", people_views.set_password_view, name="set-password"
    ),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
]
