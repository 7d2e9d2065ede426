from django.apps import AppConfig


class UpkeepConfig(AppConfig):
    name = "upkeep"
