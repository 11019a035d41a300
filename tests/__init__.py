"""Every test. A busy machine makes no property fail: how long it takes is not what it says."""

from hypothesis import HealthCheck, settings

settings.register_profile("lepidos", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("lepidos")
