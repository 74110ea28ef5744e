"""The tests. Their outcome depends neither on chance nor on how fast the machine is.

Properties are tried on the same examples in every run; ``VORLAGE_EXAMPLES=new ./vorlage test`` tries others.
"""

import os

from hypothesis import HealthCheck, settings

settings.register_profile("same", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
settings.register_profile("new", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile(os.environ.get("VORLAGE_EXAMPLES", "same"))
