"""Print where every shop's ledger stands, under its key: a line to be kept where nobody of this machine can reach."""

import json

from django.core.management.base import BaseCommand

from casework.ledger import signed_text
from casework.organisation_key import key_of, public_key
from pairs.models import Organisation


class Command(BaseCommand):
    help = (
        "A line of JSON a shop: shop, line, digest, at, key, signature. Mail it, or append it to a file elsewhere, "
        "once a day; verify_ledger --against DIGEST tells later whether anything before it was changed or cut off."
    )

    def handle(self, *args, **options):
        for organisation in Organisation.objects.order_by("pk"):
            last = organisation.ledger.order_by("-pk").first()
            if last is None:
                continue
            told = {"shop": organisation.pk, "line": last.pk, "digest": last.digest, "at": last.at.isoformat()}
            told |= {"key": public_key(organisation), "signature": key_of(organisation).sign(signed_text(last)).hex()}
            self.stdout.write(json.dumps(told))
