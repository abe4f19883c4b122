"""Routes of people."""

from django.contrib.auth.views import LoginView, LogoutView
from django.urls import path

from apps.crews import views

urlpatterns = [
    path(
        "sign-in/",
        LoginView.as_view(template_name="crews/sign_in.html", redirect_authenticated_user=True),
        name="sign-in",
    ),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("units/", views.switch_units, name="units"),
]
