"""The real server over its real API, with one condition and a small picture; data in a folder of its own."""

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import tifffile
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import Client

from plinto_core.icc.standard import rgb_profile
from plinto_core.recipe import InkStation, Recipe
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits
from plinto_server import devices
from plinto_server.accounts.models import Person, Role
from plinto_server.conditions.models import Condition
from plinto_server.files import store
from plinto_server.jobs.carry_out import carry_out
from plinto_server.jobs.models import Run
from tests.conftest import profile_of


@pytest.fixture(autouse=True)
def quick_passwords(settings: Any) -> None:
    """A safe hash takes a second or more, by design, and every test has a user of its own."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.fixture(scope="session", autouse=True)
def data_folder(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    """Nothing of a test lands in the house's data."""
    from django.conf import settings

    folder = tmp_path_factory.mktemp("plinto-data")
    kept, settings.DATA_DIR = settings.DATA_DIR, folder
    yield folder
    settings.DATA_DIR = kept


def tiff_bytes(pixels: np.ndarray, **write: Any) -> bytes:
    file = io.BytesIO()
    tifffile.imwrite(file, pixels, photometric="rgb", metadata=None, **write)
    return file.getvalue()


@pytest.fixture
def client(db: None) -> Client:
    """Signed in, and checked for the token that a browser would send."""
    return client_of("tester", Role.ADMINISTRATOR)


def client_of(name: str, role: Role) -> Client:
    """Somebody of the house, signed in."""
    user = get_user_model().objects.create_user(name, password="a-long-password")
    Person.objects.create(user=user, role=role)
    client = Client(headers={"X-CSRFToken": "not checked here"})
    client.force_login(user, backend="plinto_server.accounts.signing_in.HouseBackend")
    return client


def work() -> None:
    """What the workers do with what waits, in the test's own thread and transaction."""
    while (run := Run.objects.filter(state="queued").order_by("id").first()) is not None:
        carry_out(run.id)


def take_in(client: Client, name: str, data: bytes) -> dict[str, Any]:
    """Upload a picture, have it opened, and give the artwork."""
    answer = client.post("/api/artworks", {"file": SimpleUploadedFile(name, data)})
    assert answer.status_code in (200, 202), answer.content
    arrival = answer.json()
    if arrival["artwork"]:
        return dict(arrival["artwork"])
    work()
    run = client.get(f"/api/runs/{arrival['run']['id']}").json()
    assert run["state"] == "done", run["message"]
    return dict(client.get(f"/api/artworks/{run['artwork_id']}").json())


@pytest.fixture
def cotton(db: None) -> Condition:
    profile = profile_of("cotton-54t")
    with transaction.atomic():
        sha256 = store.keep_bytes(profile.raw)
    return Condition.objects.create(
        slug="cotton-54t", name="Cotton 54T", process="Screen print", profile_sha256=sha256,
        inks=["C", "M", "Y", "K"], total_ink_percent=230, substrate_lab=[92, 0, 2], darkest_lab=[28, 0, 0],
        fit_mean=0.1, fit_p95=0.3, patches=1600,
        recipe=Recipe(ink=InkStation("rebuilt", InkLimits(230), BLACK_PRESETS["gcr"])).to_json(),
    )  # fmt: skip


@pytest.fixture
def artwork(client: Client, photo: np.ndarray) -> dict[str, Any]:
    """The picture, taken in through the API."""
    data = tiff_bytes(photo, iccprofile=rgb_profile("opRGB").raw, compression="lzw", rowsperstrip=32)
    return take_in(client, "photo.tif", data)


@pytest.fixture
def devices_at_hand(settings: Any, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """The shop's devices, reading as fast as they can."""
    settings.DEVICES = "plinto_demo.devices.DEVICES"
    devices.devices.cache_clear()
    monkeypatch.setattr("plinto_demo.devices._STRIP_SECONDS", 0.0)
    yield
    devices.devices.cache_clear()
