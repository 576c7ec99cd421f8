from django.urls import path

from stations.people import views

app_name = "people"
urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-out/", views.SignOut.as_view(), name="sign-out"),
    path("me/", views.me, name="me"),
    path("settings/", views.settings, name="settings"),
]
