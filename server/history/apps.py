from django.apps import AppConfig


class HistoryConfig(AppConfig):
    name = "history"
    default_auto_field = "django.db.models.BigAutoField"
