"""What is sent from a browser: a picture made smaller first, a large file in parts."""

from __future__ import annotations

import random
from io import BytesIO

from PIL import Image
from playwright.sync_api import expect

from calmtin.accounts.models import User
from calmtin.accounts.services import DEMO_USER
from calmtin.exchange.records.writing import write_records
from calmtin.pours.models import CheckPhoto, Pour
from tests.browser.base import BrowserCase


def large_picture() -> bytes:
    """Return a JPEG of more than 2 MB, as a phone takes them."""
    made, points = BytesIO(), random.Random(7).randbytes(2400 * 1800 * 3)
    Image.frombytes("RGB", (2400, 1800), points).save(made, "JPEG", quality=60)
    return made.getvalue()


class Sent(BrowserCase):
    def test_a_picture_is_made_smaller_before_it_is_sent(self) -> None:
        picture = large_picture()
        self.assertGreater(len(picture), 2_000_000)
        page = self.open(f"/pours/{Pour.objects.get(code='OH-02').pk}/check/")
        sizes: list[int] = []
        page.on("request", lambda sent: sizes.append(len(sent.post_data_buffer or b"")))
        page.get_by_label("Picture").set_input_files(
            {"name": "tin.jpg", "mimeType": "image/jpeg", "buffer": picture}
        )
        expect(page.get_by_text("Made smaller to send")).to_be_visible()
        page.get_by_role("radio", name="5 firm in the tin").check()
        page.get_by_role("button", name="Save check").click()
        expect(page.get_by_text("Check saved.")).to_be_visible()
        self.assertEqual(max(CheckPhoto.objects.get().width, CheckPhoto.objects.get().height), 1600)
        self.assertLess(max(sizes), len(picture))

    def test_records_go_up_in_parts_and_are_looked_over(self) -> None:
        file = BytesIO(random.Random(7).randbytes(9_000_000))
        file.seek(0, 2)  # a zip may stand behind anything
        write_records(User.objects.get(username=DEMO_USER), file)
        page = self.open("/records/")
        parts: list[str] = []
        page.on("request", lambda sent: parts.append(sent.url) if "/part/" in sent.url else None)
        page.get_by_label("An exported file").set_input_files(
            {"name": "all.zip", "mimeType": "application/zip", "buffer": file.getvalue()}
        )
        page.get_by_role("button", name="Check the file").click()
        expect(page.get_by_role("heading", name="What the file contains")).to_be_visible()
        self.assertEqual(len(parts), 3)
        # All of it is here already, so there is nothing to import.
        self.assertEqual(page.get_by_role("button", name="Import", exact=True).count(), 0)
