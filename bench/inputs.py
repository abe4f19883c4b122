"""How many clicks and values a job takes: ``.venv/bin/python bench/inputs.py`` plays jobs in a real browser.

Each begins at the sign-in page of an empty yard whose gear is in its store (filled once, counted apart), is played as a
person would, and is counted: a press of a button or link is a click, a field filled is a value. It prints the counts
beside what they should be, the seconds the pages took, and what the plan comes to; it exits with 1 where one is missed.
"""

import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

ROOT = Path(__file__).resolve().parent.parent
PORT = "8731"
BASE = f"http://127.0.0.1:{PORT}"
FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-dev-shm-usage",
)
PASSWORD = "rowan-and-larch-7"
YARD = """
import json
from apps.crews.models import Crew, Person
from apps.gear.planner import from_entry
crew = Crew.objects.create(name='Oakhanger Tree Work')
Person.objects.create_user('mara', password={password!r}, crew=crew, role='owner', first_name='Mara')
for row in json.load(open('demo/kestrel_lane.json'))['gear']:
    from_entry(crew, row)
"""


class Hand:
    """A person at a browser, counted."""

    def __init__(self) -> None:
        """Start a browser with a fresh profile."""
        options = webdriver.ChromeOptions()
        self.profile = tempfile.mkdtemp()
        for flag in (*FLAGS, f"--user-data-dir={self.profile}"):
            options.add_argument(flag)
        options.binary_location = shutil.which("chromium")
        self.page = webdriver.Chrome(options=options, service=webdriver.ChromeService(shutil.which("chromedriver")))
        self.page.set_window_size(1280, 900)
        self.clicks = self.values = 0

    def find(self, selector):
        """An element, once it is there."""
        return WebDriverWait(self.page, 30).until(lambda page: page.find_element(By.CSS_SELECTOR, selector))

    def click(self, selector):
        """Press something."""
        element = self.find(selector)
        self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
        element.click()
        self.clicks += 1

    def fill(self, name, value, enter=False):
        """Fill a field, or choose from it; Enter sends it."""
        field = self.find(f"main [name={name}]")
        if field.tag_name == "select" and "tomselected" in (field.get_attribute("class") or ""):
            field = self.find(f"#{field.get_attribute('id')}-ts-control")
            field.click()
            field.send_keys(value, Keys.ENTER)
        elif field.tag_name == "select":
            field.send_keys(value)
        else:
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(value, Keys.ENTER if enter else "")
        self.values += 1

    def part(self, name):
        """Open a part of the pulling system by its name; how its fields begin."""
        for summary in self.page.find_elements(By.CSS_SELECTOR, "[data-fragment=parts] summary"):
            if summary.text.startswith(name):
                self.page.execute_script("arguments[0].scrollIntoView({block: 'center'})", summary)
                summary.click()
                self.clicks += 1
                field = summary.find_element(By.XPATH, "..//input[contains(@name, '_name')]")
                return field.get_attribute("name").removesuffix("_name")
        raise LookupError(name)

    def until(self, path):
        """Wait for a page."""
        WebDriverWait(self.page, 30).until(lambda page: path in page.current_url)

    def settled(self):
        """Wait until the bench has answered and saved."""
        WebDriverWait(self.page, 60).until(
            lambda page: page.find_element(By.CSS_SELECTOR, "[data-bench]").get_attribute("aria-busy") != "true"
        )

    def ended(self):
        """Close the browser."""
        self.page.quit()
        shutil.rmtree(self.profile, ignore_errors=True)


def to_a_tree(hand, species, diameter, height, **more):
    """Sign in, make a job, and a tree of three numbers, or of some more."""
    hand.page.get(f"{BASE}/sign-in/")
    hand.fill("username", "mara")
    hand.fill("password", PASSWORD, enter=True)
    hand.click("a[href='/jobs/new/']")
    hand.fill("name", "Kestrel Lane allotments", enter=True)
    hand.click("a[href$='/trees/new/']")
    hand.fill("species", species)
    hand.fill("diameter", diameter)
    if more:
        hand.click("main details summary")
    for name, value in more.items():
        hand.fill(name, value)
    hand.fill("height", height, enter=True)
    hand.until("/walk-up/")


def first_felling_plan(hand):
    """From the sign-in to the felling bench of a new tree."""
    to_a_tree(hand, "grand fir", "62", "24")
    hand.click(".strip a[href$='/fell/']")
    return hand.find("[data-fragment=ruling] .ruling b").text.split(".")[0]


def listed_picks(hand):
    """From the sign-in to the brief of a tree laid out in picks."""
    to_a_tree(hand, "european ash", "48", "19")
    hand.click(".strip a[href$='/takedown/']")
    hand.fill("lay_member", "the stem")
    hand.fill("lay_heaviest", "120")
    hand.fill("lay_longest", "6")
    hand.click("[data-lay] .button.strong")
    WebDriverWait(hand.page, 240).until(lambda page: page.find_elements(By.CSS_SELECTOR, ".picks [data-order]"))
    hand.settled()
    shapes = [
        e.get_attribute("class") for e in hand.page.find_elements(By.CSS_SELECTOR, ".picks [data-order] > button")
    ]
    count = {key: sum(key in shape.split() for shape in shapes) for key in ("within", "near", "over", "unknown")}
    hand.click(".strip a[href$='/brief/']")
    hand.until("/brief/")
    return f"{len(shapes)} picks: {count}"


def anchor(hand, where, name, trunk):
    """Draw a sound tree to anchor at, by typing."""
    hand.fill("add-kind", "Anchor: sound tree")
    hand.fill("add-where", where)
    hand.fill("add-name", name)
    hand.click("[data-form=type-in] .button")
    hand.fill("feature-diameter", trunk, enter=True)
    WebDriverWait(hand.page, 30).until(
        lambda page: page.find_element(By.CSS_SELECTOR, "[data-saved]").get_attribute("data-state") == "saved"
    )


def pull_and_guy(hand):
    """From the sign-in to the brief of a back-leaning tree pulled over, held by a guy against its side lean."""
    to_a_tree(hand, "grand fir", "62", "24", lean="1", lean_azimuth="300")
    hand.click(".strip a[href*='/site/']")
    hand.click("details:has([data-form=type-in]) summary")
    anchor(hand, "42 m at 80° from the stem", "Gate oak", "55")
    hand.fill("add-kind", "Building")
    hand.fill("add-where", "20 m at 230° from the stem")
    hand.fill("add-name", "Pump house", enter=True)
    anchor(hand, "26 m at 165° from the stem", "Corner ash", "48")
    hand.click(".strip a[href$='/fell/']")
    hand.fill("lay", "80", enter=True)
    hand.fill("pattern_school", "Bore")
    hand.fill("hinge", "7")
    hand.fill("bar", "63", enter=True)
    hand.fill("wind", "2", enter=True)
    hand.settled()
    hand.click(".tabs a[href$='/pull/']")
    hand.fill("pull-design", "Redirect")
    hand.fill("pull-anchor", "Gate oak")
    hand.fill("pull-by", "winch")
    hand.fill("pull-rope", "Blue line")
    hand.click("button[value='lay out']")
    hand.find("svg.pullplan")
    name = hand.part("Winch")
    hand.fill(f"{name}_rating_N", "15", enter=True)
    hand.settled()
    hand.fill("guy-anchor", "Corner ash")
    hand.fill("guy-rope", "Blue line")
    hand.click("[name=guy-tended]")
    hand.click("button[value='guy set']")
    hand.find("[data-figure=guy]")
    hand.click(".strip a[href$='/brief/']")
    hand.until("/brief/")
    close = [
        e.text.split(".")[0] for e in hand.page.find_elements(By.CSS_SELECTOR, ".brief>.ruling, .brief>.closelimits li")
    ]
    return "; ".join(close)


JOBS = ((first_felling_plan, 12, 120), (pull_and_guy, 60, 600), (listed_picks, 90, 720))


def main() -> int:
    """Play every job on a yard of its own."""
    missed = 0
    chosen = sys.argv[1:]
    for job, most, seconds in JOBS:
        if chosen and job.__name__ not in chosen:
            continue
        var = tempfile.mkdtemp()
        env = os.environ | {"CANTREL_VAR": var, "CANTREL_PORT": PORT, "CANTREL_NIGHTLY": "off"}
        for command in (
            ["migrate", "-v0"],
            ["collectstatic", "--noinput", "-v0"],
            ["shell", "-c", YARD.format(password=PASSWORD)],
        ):
            subprocess.run([sys.executable, "manage.py", *command], cwd=ROOT, env=env, check=True, capture_output=True)
        server = subprocess.Popen(
            [sys.executable, "-m", "cantrel.serve"],
            cwd=ROOT,
            env=env,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        hand = Hand()
        try:
            ready()
            began = time.perf_counter()
            said = job(hand)
            took = time.perf_counter() - began
        finally:
            hand.ended()
            server.terminate()
            server.wait()
            shutil.rmtree(var, ignore_errors=True)
        whole = hand.clicks + hand.values
        missed += whole > most or took > seconds
        name = job.__name__.replace("_", " ")
        counted = f"{hand.clicks} clicks + {hand.values} values = {whole} (at most {most})"
        print(f"{name}: {counted}, pages {took:.0f} s; {said}")
    return 1 if missed else 0


def ready():
    """Wait until the server answers."""
    for _ in range(60):
        try:
            urllib.request.urlopen(f"{BASE}/health/ready", timeout=2)
        except OSError as error:
            if getattr(error, "code", None):
                return
            time.sleep(0.5)
        else:
            return


if __name__ == "__main__":
    sys.exit(main())
