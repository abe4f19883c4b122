"""Routes of people."""

from django.contrib.auth.views import LogoutView
from django.urls import path

from apps.crews import handbook_views, people_views, views

urlpatterns = [
    path("sign-in/", views.SignInView.as_view(), name="sign-in"),
    path("sign-in/second/", views.second, name="second"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("first/", views.first, name="first"),
    path("join/<str:key>/", views.join, name="join"),
    path("reset/<str:key>/", views.reset, name="reset"),
    path("methods/", handbook_views.methods, name="methods"),
    path("glossary/", handbook_views.glossary, name="glossary"),
    path("units/", views.switch_units, name="units"),
    path("account/", views.account, name="account"),
    path("account/name/", views.account_name, name="account-name"),
    path("account/password/", views.account_password, name="account-password"),
    path("account/sessions/", views.account_sessions, name="account-sessions"),
    path("account/second-factor/", views.account_second, name="account-second"),
    path("account/second-factor/off/", views.account_second_off, name="account-second-off"),
    path("yard/people/", people_views.people, name="people"),
    path("yard/people/invite/", people_views.invite, name="invite"),
    path("yard/people/invited/<row:pk>/withdraw/", people_views.withdraw, name="withdraw"),
    path("yard/people/<row:pk>/", people_views.person, name="person"),
    path("yard/people/<row:pk>/leave/", people_views.leave, name="leave"),
    path("yard/people/<row:pk>/reset/", people_views.reset_link, name="reset-link"),
    path("yard/name/", people_views.yard, name="yard-name"),
]
