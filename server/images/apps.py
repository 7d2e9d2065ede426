from django.apps import AppConfig


class ImagesConfig(AppConfig):
    name = "images"
    default_auto_field = "django.db.models.BigAutoField"
