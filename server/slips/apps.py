from django.apps import AppConfig


class SlipsConfig(AppConfig):
    name = "slips"
    default_auto_field = "django.db.models.BigAutoField"
