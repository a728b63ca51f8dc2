"""The stand-in mod host: a paged catalogue feed and mod files with Content-Length, ETag and Range, on loopback.

``POST /faults`` makes it misbehave as real hosts do, for tests: ``{"mode": "down", "match": "rope", "count": 2}``.
"""

import argparse
import asyncio
import html
import os
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import msgspec
import uvicorn
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, HTMLResponse, JSONResponse, Response, StreamingResponse
from starlette.routing import Route

PER_PAGE = 20
_CHUNK = 65536


class Fault(msgspec.Struct, kw_only=True):
    """How requests whose path contains ``match`` go wrong, ``count`` times.

    ``down``: answers 503. ``truncate``: the connection ends half-way. ``corrupt``: a byte is changed. ``slow``: pauses
    between chunks, so that a transfer of a few hundred kB takes seconds.
    """

    mode: str
    match: str = ""
    count: int = 1


@dataclass
class Host:
    """The application and its state."""

    folder: Path
    faults: list[Fault] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.catalogue: dict[str, Any] = msgspec.json.decode((self.folder / "catalogue.json").read_bytes())

    def app(self) -> Starlette:
        """The ASGI application."""
        return Starlette(
            routes=[
                Route("/health", self.health),
                Route("/catalogue", self.page),
                Route("/files/{name}", self.file),
                Route("/pages/{slug}", self.mod_page),
                Route("/faults", self.set_fault, methods=["POST", "DELETE"]),
            ]
        )

    async def health(self, request: Request) -> Response:
        return JSONResponse({"mods": len(self.catalogue["mods"])})

    async def page(self, request: Request) -> Response:
        if self.fault_for("/catalogue"):
            return Response("The catalogue is being maintained.", status_code=503)
        number = max(int(request.query_params.get("page", "1")), 1)
        per_page = min(max(int(request.query_params.get("per_page", PER_PAGE)), 1), 200)
        base = str(request.base_url).rstrip("/")
        mods = self.catalogue["mods"][(number - 1) * per_page : number * per_page]
        more = number * per_page < len(self.catalogue["mods"])
        following = f"{base}/catalogue?page={number + 1}&per_page={per_page}"
        document = self.catalogue | {
            "mods": [_absolute(mod, base) for mod in mods],
            "next": following if more else None,
            "total": len(self.catalogue["mods"]),
        }
        return Response(msgspec.json.encode(document), media_type="application/json")

    async def file(self, request: Request) -> Response:
        name = request.path_params["name"]
        path = self.folder / "files" / name
        if "/" in name or not path.is_file():
            return Response("There is no such file.", status_code=404)
        fault = self.fault_for(f"/files/{name}")
        if fault is None:
            return FileResponse(path, media_type="application/zip")
        if fault.mode == "down":
            return Response("The host is busy.", status_code=503)
        size = path.stat().st_size
        headers = {"Content-Length": str(size), "Accept-Ranges": "bytes"}
        return StreamingResponse(_faulty(path, fault.mode), media_type="application/zip", headers=headers)

    async def mod_page(self, request: Request) -> Response:
        slug = request.path_params["slug"]
        mod = next((mod for mod in self.catalogue["mods"] if mod["slug"] == slug), None)
        if mod is None:
            return HTMLResponse("<h1>No such mod</h1>", status_code=404)
        links = "".join(
            f'<li><a href="/files/{html.escape(build["file"]["name"])}">{html.escape(build["version"])}</a></li>'
            for build in mod["builds"]
        )
        return HTMLResponse(f"<h1>{html.escape(mod['name'])}</h1><p>{html.escape(mod['summary'])}</p><ul>{links}</ul>")

    async def set_fault(self, request: Request) -> Response:
        if request.method == "DELETE":
            self.faults.clear()
        else:
            self.faults.append(msgspec.json.decode(await request.body(), type=Fault))
        return JSONResponse({"faults": len(self.faults)})

    def fault_for(self, path: str) -> Fault | None:
        for fault in self.faults:
            if fault.match in path and fault.count > 0:
                fault.count -= 1
                return fault
        return None


async def _faulty(path: Path, mode: str) -> AsyncIterator[bytes]:
    data = await asyncio.to_thread(path.read_bytes)
    if mode == "corrupt":
        middle = len(data) // 2
        data = data[:middle] + bytes([data[middle] ^ 0xFF]) + data[middle + 1 :]
    if mode == "truncate":
        yield data[: len(data) // 2]
        raise ConnectionResetError("the stand-in drops the connection here")
    for start in range(0, len(data), _CHUNK):
        if mode == "slow":
            await asyncio.sleep(0.3)
        yield data[start : start + _CHUNK]


def _absolute(mod: dict[str, Any], base: str) -> dict[str, Any]:
    """The mod with addresses on this host."""
    builds = [
        build | {"file": build["file"] | {"url": base + build["file"]["url"] if build["file"]["url"] else None}}
        for build in mod["builds"]
    ]
    return mod | {"page": base + mod["page"], "builds": builds}


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Run the stand-in mod host.")
    parser.add_argument("folder", type=Path)
    parser.add_argument("--port", type=int, default=int(os.environ.get("CONVOY_STANDIN_PORT", "8311")))
    given = parser.parse_args()
    uvicorn.run(Host(given.folder).app(), host="127.0.0.1", port=given.port, log_level="warning")
