"""Open a counter: a shop, its members, its first policy."""

from getpass import getpass

from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from casework.models import OrganisationPolicy
from casework.roles import give_role
from pairs.models import Organisation


class Command(BaseCommand):
    help = "Add a shop (one counter) and people who work there. New names are asked for a password."

    def add_arguments(self, parser):
        parser.add_argument("name")
        parser.add_argument("--member", action="append", required=True, help="user name; may be given several times")

    def handle(self, *args, name, member, **options):
        with transaction.atomic():
            organisation, _ = Organisation.objects.get_or_create(name=name)
            people = [self._person(username) for username in member]
            organisation.members.add(*people)
            # The first one named owns the shop: may say how it decides.
            give_role(people[0], "owner")
            OrganisationPolicy.objects.get_or_create(
                organisation=organisation, number=1, defaults={"made_by": people[0]}
            )
        self.stdout.write(f"{organisation}: {', '.join(person.username for person in organisation.members.all())}")

    def _person(self, username):
        person, new = get_user_model().objects.get_or_create(username=username)
        if new:
            password = getpass(f"Password for {username}: ")
            try:
                validate_password(password, person)
            except ValidationError as error:
                raise CommandError(" ".join(error.messages)) from error
            person.set_password(password)
            person.save()
        return person
