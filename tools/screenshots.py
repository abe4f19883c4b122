"""Make docs/screenshots/ anew from the demo data: ``.venv/bin/python tools/screenshots.py`` (needs ``make test``
once).
"""

import os
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

import pypdfium2
from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

ROOT = Path(__file__).resolve().parent.parent
OUT, PORT = ROOT / "docs" / "screenshots", 8177
BASE = f"http://127.0.0.1:{PORT}"
TREE = f"{BASE}/jobs/1/trees/1/"


def serve(var):
    """Start a server on a scratch copy of the demo."""
    env = os.environ | {"CANTREL_VAR": var, "CANTREL_PORT": str(PORT), "PYTHONPATH": str(ROOT)}
    for command in (["migrate", "-v0"], ["collectstatic", "--noinput", "-v0"], ["load_demo"]):
        subprocess.run(
            [sys.executable, "manage.py", *command], cwd=ROOT, env=env, check=True, stdout=subprocess.DEVNULL
        )
    server = subprocess.Popen([sys.executable, "-m", "cantrel.serve"], cwd=ROOT, env=env, stdout=subprocess.DEVNULL)
    for _ in range(50):
        try:
            urllib.request.urlopen(BASE)
            return server
        except OSError:
            time.sleep(0.2)
    return server


def browser():
    options = webdriver.ChromeOptions()
    for flag in (
        "--headless=new",
        "--no-sandbox",
        "--disable-gpu",
        "--disable-background-networking",
        "--hide-scrollbars",
    ):
        options.add_argument(flag)
    options.add_argument(f"--user-data-dir={tempfile.mkdtemp()}")
    options.binary_location = "/usr/bin/chromium"
    return webdriver.Chrome(options=options, service=webdriver.ChromeService("/usr/bin/chromedriver"))


def size(page, width, height):
    metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    page.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)


def shoot(page, address, name):
    page.get(address)
    time.sleep(0.6)
    page.save_screenshot(str(OUT / f"{name}.png"))


def fill(page, **texts):
    for name, text in texts.items():
        page.find_element(By.CSS_SELECTOR, f"main [name={name}]").send_keys(text)


LIST = """No;Species;DBH (cm);Height (m);X;Y
7;Field maple;31,5;11;-6,2;14
8;Crack willow;74;17,5;-8;21
9;Money tree;40;12;30;30
10;Sessile oak;58;180;31;36
11;Copper beech;92;21;2;-30
"""


def take_in(page):
    page.get(f"{BASE}/jobs/1/take-in/")
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "east-plots.csv"
        file.write_text(LIST)
        page.find_element(By.CSS_SELECTOR, "[type=file]").send_keys(str(file))
        page.find_element(By.CSS_SELECTOR, "main .button").click()
        time.sleep(0.8)
    page.save_screenshot(str(OUT / "take-in.png"))


def picks(page):
    """The takedown bench."""
    shoot(page, f"{BASE}/jobs/1/trees/2/takedown/?pick=9", "takedown")


def people(page):
    """An invitation just made."""
    page.get(f"{BASE}/yard/people/")
    fill(page, name="Tove Lind")
    page.find_element(By.CSS_SELECTOR, "form[action$='invite/'] .button").click()
    time.sleep(0.6)
    page.save_screenshot(str(OUT / "people.png"))


def paper(page):
    """The page of the brief's PDF with the first picks, drawn by another program."""
    cookies = "; ".join(f"{c['name']}={c['value']}" for c in page.get_cookies())
    token = page.get_cookie("csrftoken")["value"]
    asked = urllib.request.Request(f"{BASE}/jobs/1/brief/pdf/a4/", data=b"", headers={"Cookie": cookies})
    asked.add_header("X-CSRFToken", token)
    with urllib.request.urlopen(asked) as answer:
        pages = pypdfium2.PdfDocument(answer.read())
    shown = next(one for one in pages if "South limb 1" in one.get_textpage().get_text_range())
    shown.render(scale=1.35).to_pil().save(OUT / "brief.png")


def done(page):
    """What was done and what it teaches: the day, records, learning, an item of gear."""
    shoot(page, f"{BASE}/jobs/1/day/", "day")
    shoot(page, f"{BASE}/jobs/1/trees/2/record/", "record")
    shoot(page, f"{BASE}/yard/learning/?by=species", "learning")
    page.get(f"{BASE}/yard/gear/")
    page.find_element(By.LINK_TEXT, "Big block").click()
    time.sleep(0.6)
    page.save_screenshot(str(OUT / "gear-item.png"))


def tour(page):
    size(page, 1280, 800)
    page.get(f"{BASE}/sign-in/")
    fill(page, username="mara", password="kestrel-lane" + Keys.ENTER)
    time.sleep(0.6)
    for step in ("walk-up", "body", "method", "fell"):
        shoot(page, f"{TREE}{step}/", step)
    for step, name in (("fell/pull", "pull"), ("fell/fall", "fall"), ("fell/down", "down")):
        shoot(page, f"{TREE}{step}/", name)
    picks(page)
    shoot(page, f"{BASE}/jobs/1/site/", "site")
    shoot(page, f"{BASE}/species/", "species")
    take_in(page)
    done(page)
    paper(page)
    people(page)
    size(page, 390, 844)
    shoot(page, f"{TREE}fell/", "fell-phone")
    page.get(f"{BASE}/jobs/1/trees/2/crew/")
    page.get(page.find_elements(By.CSS_SELECTOR, ".screens a")[8].get_attribute("href"))
    time.sleep(0.6)
    page.save_screenshot(str(OUT / "phone-pick.png"))


if __name__ == "__main__":
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        server = serve(scratch)
        page = browser()
        try:
            tour(page)
        finally:
            page.quit()
            server.terminate()
            server.wait()
