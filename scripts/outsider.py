"""A person or a program outside, over HTTP alone: what load and fault measurements are made with."""

import http.cookiejar
import json
import time
import urllib.error
import urllib.request
import uuid
from typing import Any

JSON = "application/json"


class Outsider:
    """A browser without a screen. Answers are (status, body), the status 0 where nobody answered."""

    def __init__(self, address: str, seconds: float = 120.0) -> None:
        self.address, self.seconds = address, seconds
        self._jar = http.cookiejar.CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._jar))
        self.ask("GET", "/api/session")

    def ask(
        self, method: str, path: str, body: Any = None, raw: bytes | None = None, kind: str = JSON
    ) -> tuple[int, Any]:
        """One request; JSON answers as plain values, others as bytes."""
        data = raw if raw is not None else (json.dumps(body).encode() if body is not None else None)
        token = next((cookie.value for cookie in self._jar if cookie.name == "csrftoken"), "")
        request = urllib.request.Request(self.address + path, data=data, method=method)
        request.add_header("X-CSRFToken", token or "")
        if data is not None:
            request.add_header("Content-Type", kind)
        try:
            with self._opener.open(request, timeout=self.seconds) as answer:
                status, content, said = answer.status, answer.read(), answer.headers.get("Content-Type", "")
        except urllib.error.HTTPError as refused:
            status, content, said = refused.code, refused.read(), refused.headers.get("Content-Type", "")
        except (OSError, urllib.error.URLError) as nobody:
            return 0, str(nobody)
        return status, json.loads(content) if said.startswith(JSON) and content else content

    def sign_in(self, name: str, password: str) -> tuple[int, Any]:
        """Sign in."""
        return self.ask("POST", "/api/session", {"user": name, "password": password})

    def upload(self, path: str, name: str, data: bytes) -> tuple[int, Any]:
        """Send a file as a browser's form does."""
        mark = uuid.uuid4().hex
        head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
        raw = head.encode() + data + f"\r\n--{mark}--\r\n".encode()
        return self.ask("POST", path, raw=raw, kind=f"multipart/form-data; boundary={mark}")

    def ended(self, run_id: int, seconds: float = 240.0) -> dict[str, Any]:
        """A run once it has ended, or as it is after so long."""
        until = time.monotonic() + seconds
        run: dict[str, Any] = {"state": "not answered", "message": ""}
        while time.monotonic() < until:
            status, found = self.ask("GET", f"/api/runs/{run_id}")
            if status == 200:
                run = found
                if run["state"] not in ("queued", "running"):
                    return run
            time.sleep(0.15)
        return run
