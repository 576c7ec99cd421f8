from django.urls import path

from stations.people.views import door, log, people, programs, second_factor, settings

app_name = "people"
urlpatterns = [
    path("sign-in/", door.SignIn.as_view(), name="sign-in"),
    path("sign-in/code/", door.code, name="code"),
    path("second-factor/", second_factor.mine, name="second-factor"),
    path("programs/", programs.mine, name="programs"),
    path("sign-out/", door.SignOut.as_view(), name="sign-out"),
    path("me/", people.me, name="me"),
    path("me/look/", people.say_look, name="look"),
    path("password/", door.OwnPassword.as_view(), name="password"),
    path("begin/<str:uidb64>/<str:token>/", door.OneTime.as_view(), name="one-time"),
    path("add/", people.add, name="add"),
    path("<int:pk>/", people.person, name="person"),
    path("<int:pk>/names/", people.names, name="names"),
    path("<int:pk>/<slug:what>/", people.change, name="change"),
    path("log/", log.log, name="log"),
    path("settings/", settings.settings, name="settings"),
]
