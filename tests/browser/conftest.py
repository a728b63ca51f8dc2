"""The whole application as bin/start runs it, with its demo, and real Chromium to look at it with."""

import os
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar

import psycopg
import pytest
from selenium import webdriver
from selenium.common.exceptions import StaleElementReferenceException, TimeoutException
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

from tests.conftest import ROOT, free_port, stop, wait_for

DATABASE = "convoy_browser"
DEMO_PASSWORD = "lantern-lane-demo"
FLAGS = [
    *("--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking"),
    *("--disable-component-update", "--disable-sync", "--disable-quic", "--hide-scrollbars"),
]

# Looking in the page itself takes one question where asking about every element would take hundreds.
LOOKING = r"""
const words = (text) => (text ?? "").replace(/[\u00a0\u2009\t]/g, " ").trim();
const shown = (e) => e.checkVisibility({ visibilityProperty: true }) && e.getClientRects().length > 0;
const texts = (ids) => ids.split(" ").map((id) => document.getElementById(id)?.innerText ?? "").join(" ");
const called = (e) => words(
  e.getAttribute("aria-label") || texts(e.getAttribute("aria-labelledby") ?? "")
  || [...(e.labels ?? [])].map((label) => label.innerText).join(" ") || e.placeholder || e.innerText
).replace(/ *\*/, "");
const said = (selector, text) =>
  [...document.querySelectorAll(selector)].some((e) => words(e.innerText).includes(text));
const pressable = (inside, name) => {
  const found = [...document.querySelectorAll(inside)].flatMap((e) => [
    ...e.querySelectorAll("button, a, [role=menuitem], [role=option], [role=tab]"),
  ]);
  const named = (e) => words(e.getAttribute("aria-label") || e.innerText) === name;
  const usable = (e) => shown(e) && !e.disabled && e.getAttribute("aria-disabled") !== "true";
  const element = found.find((e) => named(e) && usable(e));
  element?.scrollIntoView({ block: "nearest" });
  return element ?? null;
};
const field = (selector, label, hidden) => {
  const matches = (e) => called(e) === label || (e.role === "combobox" && called(e).startsWith(label));
  return [...document.querySelectorAll(selector)].find((e) => matches(e) && (hidden || shown(e))) ?? null;
};
"""


@dataclass
class Application:
    address: str


@pytest.fixture(scope="session")
def application(running_host, tmp_path_factory) -> Iterator[Application]:
    host, port = os.environ["CONVOY_DB_HOST"], os.environ.get("CONVOY_DB_PORT", "5432")
    with psycopg.connect(host=host, port=port, user="convoy", dbname="postgres", autocommit=True) as connection:
        connection.execute(f"DROP DATABASE IF EXISTS {DATABASE} WITH (FORCE)")
        connection.execute(f"CREATE DATABASE {DATABASE}")
    address = f"http://127.0.0.1:{(web := free_port())}"
    environment = os.environ | {"CONVOY_DB_NAME": DATABASE, "CONVOY_PUBLIC_ADDRESS": address}
    environment |= {"CONVOY_VAR": str(tmp_path_factory.mktemp("var"))}
    manage = [sys.executable, "-m", "true_convoy.server.manage"]
    for words in (["migrate"], ["load_demo", "--feed", running_host.feed]):
        subprocess.run([*manage, *words], env=environment, check=True, capture_output=True, cwd=ROOT)
    uvicorn = [sys.executable, "-m", "uvicorn", "true_convoy.server.asgi:application", "--port", str(web)]
    quiet = ["--log-level", "warning", "--timeout-graceful-shutdown", "2"]
    pooled = environment | {"CONVOY_DB_POOL": "1"}
    server = subprocess.Popen([*uvicorn, *quiet], env=pooled, cwd=ROOT)
    worker = subprocess.Popen(
        [*manage, "procrastinate", "worker"], env=environment, cwd=ROOT, stderr=subprocess.DEVNULL
    )
    wait_for(f"{address}/api/health", server)
    yield Application(address)
    stop(worker)
    stop(server)


class Reader:
    """A person at a browser. Everything waits for what is expected, so no test needs to sleep."""

    sessions: ClassVar[dict[str, dict[str, Any]]] = {}

    def __init__(self, address: str) -> None:
        options = webdriver.ChromeOptions()
        options.binary_location = "/usr/bin/chromium"
        for flag in (*FLAGS, "--window-size=1280,800", f"--user-data-dir={tempfile.mkdtemp()}"):
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        self.driver = webdriver.Chrome(options=options, service=webdriver.ChromeService("/usr/bin/chromedriver"))
        self.driver.set_script_timeout(120)
        self.address = address

    def begin(self, width: int = 1280, height: int = 800, dark: bool = False) -> None:
        """A fresh start: nobody signed in, nothing kept, nothing blocked, a window of this size."""
        self.driver.execute_cdp_cmd("Network.enable", {})
        self.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": []})
        self.driver.execute_cdp_cmd("Network.clearBrowserCookies", {})
        self.driver.execute_cdp_cmd("Storage.clearDataForOrigin", {"origin": self.address, "storageTypes": "all"})
        metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 600}
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
        self.scheme("dark" if dark else "light")

    def end(self) -> list[str]:
        """Leaves the application, and gives what the console complained of."""
        complaints = self.complaints()
        self.driver.get("about:blank")
        return complaints

    def scheme(self, value: str) -> None:
        features = [
            {"name": "prefers-color-scheme", "value": value},
            {"name": "prefers-reduced-motion", "value": "reduce"},
        ]
        self.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": features})

    def go(self, path: str) -> None:
        self.driver.get(self.address + path)

    def until(self, what: Callable[[], Any], seconds: float = 90) -> Any:
        def ready(_: Any) -> Any:
            try:
                return what()
            except StaleElementReferenceException:
                return None

        try:
            return WebDriverWait(self.driver, seconds, poll_frequency=0.05).until(ready)
        except TimeoutException:
            body = self.driver.find_element(By.TAG_NAME, "body").text
            raise AssertionError(f"Not seen within {seconds} s. The page says:\n{body}") from None

    def find(self, selector: str) -> Any:
        """The first shown element of a CSS selector."""
        return self.until(lambda: next((e for e in self.all(selector) if e.is_displayed()), None))

    def all(self, selector: str) -> list[Any]:
        return self.driver.find_elements(By.CSS_SELECTOR, selector)

    def text(self, selector: str = "body") -> str:
        return self.driver.find_element(By.CSS_SELECTOR, selector).text

    def see(self, text: str, selector: str = "body", seconds: float = 90) -> None:
        self.until(lambda: self.run("return said(...arguments)", selector, text), seconds)

    def miss(self, text: str, selector: str = "body") -> None:
        self.until(lambda: not self.run("return said(...arguments)", selector, text))

    def run(self, script: str, *arguments: Any) -> Any:
        """What a script gives in the page, which is asked once, not element by element."""
        return self.driver.execute_script(LOOKING + script, *arguments)

    def press(self, name: str, inside: str = "body") -> None:
        """Clicks the enabled button, link or menu entry with this name, once it is there."""

        def clicked() -> bool:
            element = self.run("return pressable(...arguments)", inside, name)
            if element is None:
                return False
            element.click()
            return True

        self.until(clicked)

    def fill(self, label: str, text: str) -> None:
        """Writes into the field with this label or accessible name."""

        element = self.until(lambda: self.run("return field('input, textarea', ...arguments)", label))
        element.send_keys(Keys.CONTROL, "a")
        element.send_keys(text)

    def choose(self, label: str, option: str) -> None:
        """Takes an option of the list with this label."""
        field = self.until(lambda: self.run("return field('[role=combobox]', ...arguments)", label))
        field.click()
        self.press(option, "[role=listbox]")

    def toggle(self, label: str) -> None:
        """Turns a switch or box over; the input itself is drawn by others and cannot be pointed at."""
        box = self.until(lambda: self.run("return field('input', ...arguments, true)", label))
        self.driver.execute_script("arguments[0].click()", box)

    def keys(self, keys: str) -> None:
        self.driver.switch_to.active_element.send_keys(keys)

    def undo(self, times: int = 1) -> None:
        """Takes the latest edits back, each after the one before it has been confirmed."""
        for _ in range(times):
            before = self.find("footer").get_attribute("data-revision")
            self.press("Undo", "footer")
            self.see("undid", f"footer:not([data-revision='{before}'])")

    def sign_in(self, person: str) -> None:
        """Signs somebody in: on the screen the first time, and with the session of that time from then on."""
        if person in self.sessions:
            self.driver.execute_cdp_cmd("Network.setCookie", {"url": self.address, **self.sessions[person]})
            self.go("/")
            self.until(lambda: self.run("return said('h1', 'Packs') || said('h1', 'Sign in')"))
            if self.run("return said('h1', 'Packs')"):
                return
        self.go("/sign-in")
        self.fill("Email address", f"{person}@lantern-lane.example")
        self.fill("Password", DEMO_PASSWORD)
        self.press("Sign in", "form")
        self.see("Packs", "h1")
        cookie = self.driver.get_cookie("convoy_session")
        self.sessions[person] = {key: cookie[key] for key in ("name", "value", "httpOnly")}

    def complaints(self) -> list[str]:
        """What the console said that a person would call an error; refused requests are expected in places."""
        entries = [entry["message"] for entry in self.driver.get_log("browser") if entry["level"] == "SEVERE"]
        return [entry for entry in entries if "Failed to load resource" not in entry]

    def picture(self, path: Path) -> None:
        self.driver.save_screenshot(str(path))


@pytest.fixture(scope="session")
def idle(application) -> Iterator[list[Reader]]:
    """Browsers that nobody uses just now; starting one takes longer than most tests."""
    browsers: list[Reader] = []
    yield browsers
    for browser in browsers:
        browser.driver.quit()


@pytest.fixture
def reader(application, idle) -> Iterator[Callable[..., Reader]]:
    """Opens browsers, each a person of its own; afterwards none may have complained."""
    readers: list[Reader] = []

    def open_one(person: str | None = None, **window: Any) -> Reader:
        readers.append(idle.pop() if idle else Reader(application.address))
        readers[-1].begin(**window)
        if person:
            readers[-1].sign_in(person)
        return readers[-1]

    yield open_one
    complaints = [complaint for one in readers for complaint in one.end()]
    idle.extend(readers)
    assert complaints == []
