"""Every address for every role, from the resolver: the matrix of tests/web/permissions.py."""

from .inside import arguments, finish, prepare


def main() -> None:
    """Walk it once."""
    arguments()
    owner, job = prepare()
    from django.contrib.auth import get_user_model
    from django.db import transaction
    from django.test import Client

    from justloop.accounts import guests
    from tests.web.permissions import ROLES, RULES, addresses, may

    people = {"owner": owner}
    owner.is_staff = False
    owner.save()
    for role in ROLES[1:-1]:
        people[role] = get_user_model().objects.create_user(role, password="x" * 12)
    people["administrator"].is_staff = True
    people["administrator"].save()
    guests.welcome(people["guest"])
    job.readers.add(people["reader"])
    job.crew.add(people["editor"])
    found = addresses(job)
    wrong = [f"{n}: no rule says who may" for n in found.keys() - RULES.keys()]
    tries = 0
    for name, address in found.items():
        rule = RULES.get(name)
        if rule is None or name == "demo-sign-in":
            continue
        for role in ROLES:
            for method, allowed, data in (("get", rule.get, {}), ("post", rule.post, rule.data)):
                tries += 1
                with transaction.atomic():
                    client = Client(raise_request_exception=False, REMOTE_ADDR="192.0.2.9")
                    if role != "nobody":
                        client.force_login(people[role])
                    answer = getattr(client, method)(address, data)
                    if answer.status_code >= 500 or may(answer) != (role in allowed):
                        wrong.append(f"{method} {name} as {role}: {answer.status_code}")
                    if role not in allowed and b"Pebblewick" in answer.content:
                        wrong.append(f"{method} {name} as {role}: tells of the job")
                    transaction.set_rollback(True)
    finish(wrong, f"{tries} tries at {len(found)} addresses")


if __name__ == "__main__":
    main()
