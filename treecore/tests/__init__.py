"""The core's tests. Examples are drawn without a clock: a slow machine changes no verdict."""

from hypothesis import HealthCheck, settings

settings.register_profile("no-clock", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("no-clock")
