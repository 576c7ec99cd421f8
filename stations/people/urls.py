from django.urls import path

from stations.people import views

app_name = "people"
urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-out/", views.SignOut.as_view(), name="sign-out"),
    path("me/", views.me, name="me"),
    path("password/", views.OwnPassword.as_view(), name="password"),
    path("begin/<str:uidb64>/<str:token>/", views.OneTime.as_view(), name="one-time"),
    path("add/", views.add, name="add"),
    path("<int:pk>/", views.person, name="person"),
    path("<int:pk>/<slug:what>/", views.change, name="change"),
    path("settings/", views.settings, name="settings"),
]
