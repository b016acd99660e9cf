"""A person at the screen: mouse and keyboard in headless Chromium, waiting on state, not time."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.common.actions.pointer_input import PointerInput
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select

FLAGS = [
    "--headless=new",
    "--no-sandbox",
    "--disable-dev-shm-usage",
    "--disable-gpu-compositing",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--ignore-gpu-blocklist",
    "--hide-scrollbars",
    "--force-device-scale-factor=1",
    "--window-size=1280,800",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-default-apps",
    "--disable-sync",
    "--disable-quic",
]

BUTTONS = {"left": 0, "middle": 1, "right": 2}


def open_browser(downloads: Path | None = None) -> webdriver.Chrome:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS:
        options.add_argument(flag)
    options.add_argument(f"--user-data-dir={tempfile.mkdtemp(prefix='vireo-browser-')}")
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    if downloads:
        options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
    )
    return driver


class Page:
    """One tab. `base` is the address of the server."""

    def __init__(self, driver: webdriver.Chrome, base: str, quality: str = "") -> None:
        self.driver, self.base, self.quality = driver, base, quality

    def go(self, path: str = "/") -> None:
        joint = "&" if "?" in path else "?"
        self.driver.get(f"{self.base}{path}{joint}seam{'&quality=full' if self.quality else ''}")

    def keep_seam(self) -> None:
        """Moving between pages inside the app loses the query: open the address again."""
        self.go(self.driver.execute_script("return location.pathname + location.search"))

    def wait(self, test: Callable[[], Any], what: str = "", seconds: float = 20.0) -> Any:
        end = time.monotonic() + seconds
        last: Exception | None = None
        while time.monotonic() < end:
            try:
                found = test()
                if found:
                    return found
            except Exception as error:  # stale elements and pages half loaded
                last = error
            time.sleep(0.03)
        raise AssertionError(f"waited in vain for {what or test} ({last})")

    def js(self, script: str, *arguments: Any) -> Any:
        return self.driver.execute_script(script, *arguments)

    def find(self, testid: str, seconds: float = 20.0) -> WebElement:
        def look() -> WebElement | None:
            for element in self.driver.find_elements(By.CSS_SELECTOR, f'[data-testid="{testid}"]'):
                if element.is_displayed():
                    return element
            return None

        found: WebElement = self.wait(look, testid, seconds)
        return found

    def has(self, testid: str) -> bool:
        return bool(self.driver.find_elements(By.CSS_SELECTOR, f'[data-testid="{testid}"]'))

    def text(self, testid: str) -> str:
        return self.find(testid).text

    def press(self, testid: str) -> None:
        self.wait(lambda: self.find(testid).is_enabled(), f"{testid} enabled")
        self.find(testid).click()
        if testid.startswith("tool-"):
            # A fly-out fades away; until it has, it takes the clicks meant for what is behind it.
            self.wait(
                lambda: (
                    not any(
                        e.is_displayed()
                        for e in self.driver.find_elements(By.CSS_SELECTOR, ".n-popover")
                    )
                ),
                "the fly-out gone",
            )

    def press_text(self, text: str) -> None:
        """Click the button or menu entry that says exactly this."""

        def look() -> WebElement | None:
            xpath = f"//*[self::button or self::a or contains(@class,'option')][normalize-space()='{text}']"
            found = [e for e in self.driver.find_elements(By.XPATH, xpath) if e.is_displayed()]
            return found[-1] if found else None

        self.wait(look, text).click()

    def press_option(self, testid: str, text: str) -> None:
        """Choose an entry of a native list."""
        Select(self.find(testid)).select_by_visible_text(text)

    def fill(self, testid: str, text: str, enter: bool = False) -> None:
        field = self.find(testid)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text + (Keys.ENTER if enter else ""))

    def keys(self, *keys: str) -> None:
        """Press them as on a real keyboard: whatever has the focus hears them, even a button of a
        fly-out that has just gone."""
        actions = ActionChains(self.driver)
        held = [k for k in keys if k in (Keys.CONTROL, Keys.SHIFT, Keys.ALT)]
        for key in held:
            actions.key_down(key)
        actions.send_keys(*(k for k in keys if k not in held))
        for key in held:
            actions.key_up(key)
        actions.perform()

    def idle(self) -> None:
        time.sleep(0.12)  # debounced previews start within this
        self.wait(lambda: self.js("return window.__test && window.__test.idle()"), "idle", 60)

    # mouse

    def mouse(self, x: float, y: float, button: str | None = "left", shift: bool = False) -> None:
        if shift:
            ActionChains(self.driver).key_down(Keys.SHIFT).perform()
        actions = ActionBuilder(self.driver, mouse=PointerInput("mouse", "m"), duration=0)
        actions.pointer_action.move_to_location(round(x), round(y))
        if button:
            actions.pointer_action.pointer_down(BUTTONS[button])
            actions.pointer_action.pointer_up(BUTTONS[button])
        actions.perform()
        if shift:
            ActionChains(self.driver).key_up(Keys.SHIFT).perform()

    def double(self, x: float, y: float) -> None:
        actions = ActionBuilder(self.driver, mouse=PointerInput("mouse", "m"), duration=0)
        actions.pointer_action.move_to_location(round(x), round(y))
        for _ in range(2):
            actions.pointer_action.pointer_down(0)
            actions.pointer_action.pointer_up(0)
        actions.perform()

    def hold_hints(self) -> None:
        """Ctrl down: nothing is snapped to while drawing."""
        ActionChains(self.driver).key_down(Keys.CONTROL).perform()

    def release_hints(self) -> None:
        ActionChains(self.driver).key_up(Keys.CONTROL).perform()

    def drag(self, path: list[tuple[float, float]], button: str = "left") -> None:
        actions = ActionBuilder(self.driver, mouse=PointerInput("mouse", "m"), duration=10)
        actions.pointer_action.move_to_location(*map(round, path[0]))
        actions.pointer_action.pointer_down(BUTTONS[button])
        for place in path[1:]:
            actions.pointer_action.move_to_location(*map(round, place))
        actions.pointer_action.pointer_up(BUTTONS[button])
        actions.perform()

    def at(self, x: float, y: float, z: float = 0.0) -> tuple[float, float]:
        """Pixel of a point of the model."""
        found = self.js(
            "return window.__test.project(arguments[0],arguments[1],arguments[2])", x, y, z
        )
        return found[0], found[1]

    def click_model(self, x: float, y: float, z: float = 0.0, shift: bool = False) -> None:
        self.mouse(*self.at(x, y, z), shift=shift)

    def spot(self, body: str, kind: str, index: int) -> tuple[float, float] | None:
        found = self.js(
            "return window.__test.spot(arguments[0],arguments[1],arguments[2])", body, kind, index
        )
        return (found[0], found[1]) if found else None

    def topology(self, body: str) -> dict[str, Any]:
        found: dict[str, Any] = self.wait(
            lambda: self.js("return window.__test.topology(arguments[0])", body), f"body {body}"
        )
        return found

    def shot(self, path: Path | str) -> None:
        self.driver.save_screenshot(str(path))

    def complaints(self) -> list[str]:
        """Errors the browser's console shows."""
        logs = self.driver.get_log("browser")
        return [
            e["message"] for e in logs if e["level"] == "SEVERE" and "favicon" not in e["message"]
        ]
