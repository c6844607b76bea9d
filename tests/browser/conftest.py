"""A served demo, fresh for each journey, and one browser for all of them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

import pytest
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    NoSuchElementException,
    StaleElementReferenceException,
    TimeoutException,
)
from selenium.webdriver import ActionChains, Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from tests.browser.chromium import chromium, save_to, serving

T = TypeVar("T")

LEAVING = "addEventListener('beforeunload', () => { window.leftAt = performance.now(); })"
"""Notes when a page is about to give way to another one."""
FIND = """
const left = window.leftAt && performance.now() - window.leftAt < 2000;
if (document.readyState !== "complete" || left) return null;
const one = document.querySelector(arguments[0]);
"""
"""An element of a page that is there and stays: what is left for another page (or for a file, from
which it comes back) shows nothing any more that counts."""
THERE = FIND + "return one"
RENDERED = FIND + "return one && (one.innerText ?? one.textContent)"
"""The words of an element as they are rendered; those of a drawing as they stand."""
OPTION = """
const [list, words, value] = arguments;
const said = (one) => one.textContent.replace(/\\s+/g, " ").trim();
const options = [...list.options];
return value ? options.find((one) => one.value === value)
  : options.find((one) => said(one) === words) || options.find((one) => said(one).includes(words));
"""
"""The option of a list that has a value, or that says some words: all of it, else a part."""
SECONDS = 60
"""How long is waited for what never comes; what comes is not waited for longer than it takes."""
PUT_AWAY = """
const told = arguments[0];
sessionStorage.clear();
localStorage.clear();
const all = Promise.all.bind(Promise);
const workers = navigator.serviceWorker.getRegistrations();
const gone = workers.then(found => all(found.map(one => one.unregister())));
const empty = caches.keys().then(names => all(names.map(name => caches.delete(name))));
all([gone, empty]).then(() => told(""), reason => told(String(reason)));
"""
"""Lets go of all that pages of an address have put away in the browser."""
LOOKS = 0.1
"""Seconds from one look to the next while something is waited for."""

SEEN = "return document.readyState + ' ' + (document.body?.innerText ?? '').slice(0, 1500)"
"""What is seen where something did not come."""

REDRAWN = (
    NoSuchElementException,
    StaleElementReferenceException,
    ElementClickInterceptedException,
)
"""What a click meets that comes while a part of the page is drawn anew."""


@pytest.fixture(scope="session")
def downloads(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Where the browser puts files."""
    return tmp_path_factory.mktemp("downloads")


@pytest.fixture(scope="session")
def browser(downloads: Path) -> Iterator[Chrome]:
    """One headless Chromium."""
    with chromium(downloads=downloads, frugal=True) as driver:
        driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": LEAVING})
        yield driver


@dataclass
class Page:
    """What a person does on a page: look, click, type. Waits have a deadline, never a fixed
    time."""

    driver: Chrome
    base: str

    def open(self, path: str) -> None:
        self.driver.get(self.base + path)

    def wait(self, condition: Callable[[], object], what: str) -> None:
        waiting = WebDriverWait(
            self.driver, SECONDS, poll_frequency=LOOKS, ignored_exceptions=(Exception,)
        )
        try:
            waiting.until(lambda _: condition(), what)
        except TimeoutException:
            words = self.driver.execute_script(SEEN)
            raise AssertionError(f"{what}. Seen at {self.driver.current_url}: {words}") from None

    def there(self, selector: str) -> WebElement:
        """The element, on a page that stays; ``NoSuchElementException`` where it is not there."""
        found: WebElement | None = self.driver.execute_script(THERE, selector)
        if found is None:
            raise NoSuchElementException(selector)
        return found

    def one(self, selector: str) -> WebElement:
        """The element, as soon as it is there."""
        return self.again(lambda: self.there(selector), f"nothing matches {selector}")

    def has(self, selector: str) -> bool:
        return bool(self.driver.find_elements(By.CSS_SELECTOR, selector))

    def text(self, selector: str) -> str:
        """The words as they are rendered; asked of the page itself, which is quicker than by way of
        the driver."""
        return self.again(lambda: self._words(selector), f"nothing matches {selector}")

    def _words(self, selector: str) -> str:
        words: str | None = self.driver.execute_script(RENDERED, selector)
        if words is None:
            raise NoSuchElementException(selector)
        return words.strip()

    def sees(self, words: str, selector: str = "body") -> None:
        self.wait(lambda: words in self._words(selector), f"“{words}” is not seen in {selector}")

    def again(self, action: Callable[[], T], what: str) -> T:
        """Do something, and again where it meets a page that is drawn anew just then."""
        found: list[T] = []
        WebDriverWait(self.driver, SECONDS, poll_frequency=LOOKS, ignored_exceptions=REDRAWN).until(
            lambda _: found.append(action()) or True, what
        )
        return found[0]

    def click(self, selector: str) -> None:
        """Click what is there, and again where it was drawn anew in between, or lay under a bar at
        the edge of the screen."""

        def clicked() -> None:
            one = self.there(selector)
            try:
                one.click()
            except ElementClickInterceptedException:
                self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", one)
                raise

        self.again(clicked, f"{selector} cannot be clicked")

    def choose(self, selector: str, words: str = "", *, value: str = "") -> None:
        """Choose of a list, by what it says or by its value. The page itself finds the option: the
        driver looks at one after the other, and there are lists of a hundred."""

        def chosen() -> None:
            option = self.driver.execute_script(OPTION, self.there(selector), words, value)
            if option is None:
                raise NoSuchElementException(f"{words or value} in {selector}")
            option.click()

        self.again(chosen, f"{words or value} is not in the list {selector}")

    def press(self, *keys: str) -> None:
        self.one("body")
        ActionChains(self.driver).send_keys(*keys).perform()

    def type(self, selector: str, words: str) -> None:
        def typed() -> None:
            field = self.there(selector)
            field.clear()
            field.send_keys(words)

        self.again(typed, f"nothing can be typed into {selector}")

    def complaints(self) -> list[str]:
        """Errors in the browser's console, such as blocked styles; refused requests are part of
        some journeys."""
        entries = [e["message"] for e in self.driver.get_log("browser") if e["level"] == "SEVERE"]
        return [
            e for e in entries if "status of 4" not in e and "Response Status Error Code 4" not in e
        ]


@contextmanager
def on_each_page(page: Page, script: str) -> Iterator[None]:
    """Have a script on every page that is opened from now on."""
    told = page.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": script})
    try:
        yield
    finally:
        page.driver.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", told)


def forget(browser: Chrome, base: str = "") -> None:
    """Be nobody: leave the page, and forget all cookies. Those of this machine are of every port,
    and the driver alone would forget only those of the page that is open. With ``base``, all that
    pages from there have kept goes, too: another server may have been at that port. They let go of
    it themselves, for the driver's own command was seen to hang for good, and the browser with
    it."""
    browser.get("about:blank")
    browser.execute_cdp_cmd("Network.clearBrowserCookies", {})
    if base:
        browser.get(f"{base}/static/fence.svg")
        refused: str = browser.execute_async_script(PUT_AWAY)
        assert not refused, refused


@pytest.fixture
def page(browser: Chrome, downloads: Path, tmp_path: Path, furnished: Path) -> Iterator[Page]:
    """A browser on its own demo; the console must stay free of errors."""
    with serving(tmp_path / "browser.db", furnished=furnished) as base:
        forget(browser, base)
        save_to(browser, downloads)
        found = Page(browser, base)
        found.complaints()  # what the page of the test before said when its server had ended
        yield found
        complaints = found.complaints()
        assert not complaints, "\n".join(complaints)
        browser.get("about:blank")
