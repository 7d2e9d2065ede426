from django.apps import AppConfig


class ArrivalsConfig(AppConfig):
    name = "arrivals"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from work.registry import SOON, register, tidy

        from . import bringing, fits, receiving

        register("arrival", receiving.run_arrival, SOON, receiving.arrival_failed)
        register("fit", fits.run_fit, SOON, fits.fit_failed)
        register("incoming", bringing.run_incoming, SOON, bringing.incoming_failed)
        tidy(receiving.forget_old)
