"""Plinto's tests. Its own settings of the environment (see `plinto_core`) come before any library that reads them."""

import plinto_core as plinto_core
