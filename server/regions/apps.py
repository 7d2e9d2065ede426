from django.apps import AppConfig


class RegionsConfig(AppConfig):
    name = "regions"
    default_auto_field = "django.db.models.BigAutoField"
