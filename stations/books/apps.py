from django.apps import AppConfig


class BooksConfig(AppConfig):
    name = "stations.books"
    label = "books"
