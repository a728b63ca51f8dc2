"""Downloading into the store: several at a time, with progress, resumed where they broke off, checked before use."""

import hashlib
import time
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from urllib.parse import urlsplit

import httpx
from rich.console import Console
from rich.progress import BarColumn, DownloadColumn, Progress, TaskID, TextColumn, TransferSpeedColumn

from .problems import Failed, said
from .store import Store

TRIES = 4
AT_ONCE = 4
_TIMEOUT = httpx.Timeout(30, connect=10)


class Download:
    """A file to be fetched: ``name`` for people, size in bytes, SHA-256 and address."""

    def __init__(self, name: str, url: str, size: int, sha256: str) -> None:
        self.name, self.url, self.size, self.sha256 = name, url, size, sha256


def fetch_all(downloads: Iterable[Download], store: Store, console: Console) -> None:
    """Fetches what the store does not have. Raises Failed, with a sentence, for the first that cannot be had."""
    missing = [download for download in downloads if not store.has(download.sha256)]
    if not missing:
        return
    columns = (TextColumn("{task.description}"), BarColumn(), DownloadColumn(), TransferSpeedColumn())
    with Progress(*columns, console=console, transient=True) as progress, httpx.Client(timeout=_TIMEOUT) as client:
        total = progress.add_task(f"Fetching {len(missing)} files", total=sum(d.size for d in missing))
        with ThreadPoolExecutor(AT_ONCE) as pool:
            running = [pool.submit(_fetch, download, store, client, progress, total) for download in missing]
            try:
                for one in running:
                    one.result()
            except BaseException:
                pool.shutdown(wait=True, cancel_futures=True)
                raise


def _fetch(download: Download, store: Store, client: httpx.Client, progress: Progress, total: TaskID) -> None:
    if urlsplit(download.url).scheme not in ("http", "https"):
        raise Failed(f"{download.name} has an address that is neither http nor https, so it was not fetched.")
    partial = store.partial(download.sha256)
    with said(store.root):
        partial.parent.mkdir(parents=True, exist_ok=True)
        if partial.exists():
            progress.advance(total, partial.stat().st_size)
        for attempt in range(TRIES):
            problem = _try(download, partial, client, progress, total)
            if problem is None:
                break
            if attempt == TRIES - 1:
                raise Failed(f"{download.name} could not be fetched: {problem} What came so far is kept; try again.")
            time.sleep(0.3 * 2**attempt)
        with partial.open("rb") as file:
            right = hashlib.file_digest(file, "sha256").hexdigest() == download.sha256
        if not right:
            partial.unlink()
            raise Failed(
                f"{download.name} is not the file the release names: its checksum differs. It was thrown away and "
                "nothing was placed. Tell the pack's curator if it happens again."
            )
        store.take_in(partial, download.sha256)


def _try(download: Download, partial: Path, client: httpx.Client, progress: Progress, total: TaskID) -> str | None:
    """One attempt, going on where the last one ended; what went wrong, if something did."""
    have = partial.stat().st_size if partial.exists() else 0
    if have >= download.size > 0:
        return None
    headers = {"Range": f"bytes={have}-"} if have else {}
    host = urlsplit(download.url).netloc
    try:
        with client.stream("GET", download.url, headers=headers, follow_redirects=True) as response:
            if response.status_code == 404:
                raise Failed(f"{download.name} is no longer at {host}. Tell the pack's curator.")
            if response.status_code not in (200, 206):
                return f"{host} answered with status {response.status_code}."
            resumed = response.status_code == 206
            if have and not resumed:
                progress.advance(total, -have)
            with partial.open("ab" if resumed else "wb") as file:
                for chunk in response.iter_raw():
                    file.write(chunk)
                    progress.advance(total, len(chunk))
                    if file.tell() > download.size > 0:
                        partial.unlink()
                        raise Failed(f"{host} sent more than the size of {download.name}. Nothing of it was kept.")
    except httpx.HTTPError as error:
        return f"{host} cannot be reached." if isinstance(error, httpx.ConnectError) else f"{host} broke off."
    short = partial.stat().st_size < download.size
    return f"{host} broke off." if short else None
