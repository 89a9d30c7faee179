from django.contrib.auth.views import LogoutView
from django.urls import path

from brunt_web.people import views

urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-in/demo/", views.demo_sign_in, name="demo-sign-in"),
    path("workshops/<int:pk>/sit-down/", views.sit_down, name="sit-down"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
]
