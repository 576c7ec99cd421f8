app_name = "day"
urlpatterns: list = []
