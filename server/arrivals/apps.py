from django.apps import AppConfig


class ArrivalsConfig(AppConfig):
    name = "arrivals"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from work.registry import ARRIVING, register, tidy

        from . import bringing, fits, receiving, renewing, uploading

        register("arrival", receiving.run_arrival, ARRIVING, receiving.arrival_failed)
        register("fit", fits.run_fit, ARRIVING, fits.fit_failed)
        register("incoming", bringing.run_incoming, ARRIVING, bringing.incoming_failed)
        register("renewal", renewing.run_renewal, ARRIVING, renewing.renewal_failed)
        tidy(receiving.forget_old)
        tidy(uploading.forget_old_uploads)
