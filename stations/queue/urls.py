from django.urls import path

from stations.queue.views import queue

app_name = "queue"
urlpatterns = [
    path("", queue.queue, name="queue"),
    path("<int:pk>/again/", queue.again, name="again"),
    path("<int:pk>/leave/", queue.leave, name="leave"),
]
