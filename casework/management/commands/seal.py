"""Print where every shop's ledger stands, under its key: a line to be kept where nobody of this machine can reach."""

import json

from django.core.management.base import BaseCommand

from casework.house_key import key_of, public_key
from casework.ledger import signed_text
from pairs.models import House


class Command(BaseCommand):
    help = (
        "A line of JSON a shop: shop, line, digest, at, key, signature. Mail it, or append it to a file elsewhere, "
        "once a day; verify_ledger --against DIGEST tells later whether anything before it was changed or cut off."
    )

    def handle(self, *args, **options):
        for house in House.objects.order_by("pk"):
            last = house.ledger.order_by("-pk").first()
            if last is None:
                continue
            told = {"shop": house.pk, "line": last.pk, "digest": last.digest, "at": last.at.isoformat()}
            told |= {"key": public_key(house), "signature": key_of(house).sign(signed_text(last)).hex()}
            self.stdout.write(json.dumps(told))
