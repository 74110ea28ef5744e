"""The second step of signing in: set up, asked for, lost, taken away."""

import time
from unittest import mock

from allauth.mfa.models import Authenticator
from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value
from django.conf import settings
from django.core.cache import cache
from django.test import TestCase, override_settings
from django.urls import reverse

from vorlage.operations.install import link_for

from .samples import PASSWORD, department, person

NOW = 1_800_000_000


class SecondStep(TestCase):
    def setUp(self) -> None:
        cache.clear()
        self.at = float(NOW)
        self.enterContext(mock.patch.object(time, "time", lambda: self.at))
        self.ines = person("ines", department("Physics"), "lead")

    def sign_in(self) -> str:
        """Sign in with the password; where one lands."""
        sent = {"login": self.ines.email, "password": PASSWORD}
        return self.client.post(reverse("account_login"), sent)["Location"]

    def code_shown(self, secret: str) -> str:
        """What a phone shows now; every code counts once, so it is that of the next half minute."""
        self.at += 30
        return format_hotp_value(hotp_value(secret, int(self.at) // 30))

    def set_up(self) -> str:
        """Set it up as one does; the letters that the phone keeps."""
        self.sign_in()
        asked = self.client.get(reverse("mfa_activate_totp"))
        self.assertRedirects(self.client.post(asked["Location"], {"password": PASSWORD}), reverse("mfa_activate_totp"))
        page = self.client.get(reverse("mfa_activate_totp"))
        secret: str = page.context["form"].secret
        self.assertContains(page, secret)
        self.assertContains(page, "data:image/svg+xml")
        wrong = self.client.post(reverse("mfa_activate_totp"), {"code": "000000"})
        self.assertContains(wrong, "This is not the code", status_code=422)
        done = self.client.post(reverse("mfa_activate_totp"), {"code": self.code_shown(secret)})
        self.assertRedirects(done, reverse("mfa_view_recovery_codes"))
        return secret

    def test_the_password_alone_opens_nothing(self) -> None:
        secret = self.set_up()
        self.client.post(reverse("account_logout"))
        self.assertEqual(self.sign_in(), reverse("mfa_authenticate"))
        self.assertEqual(self.client.get("/questions/").status_code, 302)
        step = reverse("mfa_authenticate")
        self.assertContains(self.client.get(step), "Second step")
        self.assertContains(self.client.post(step, {"code": "123456"}), "This is not the code", status_code=422)
        self.assertContains(self.client.post(step, {"code": ""}), "This is needed", status_code=422)
        shown = self.code_shown(secret)
        self.assertRedirects(self.client.post(step, {"code": shown}), "/", target_status_code=302)
        self.assertEqual(self.client.get("/questions/").status_code, 200)
        # who goes back begins anew
        self.client.post(reverse("account_logout"))
        self.sign_in()
        self.assertRedirects(self.client.get(reverse("account_login")), step)
        self.client.post(reverse("account_logout"))
        self.assertContains(self.client.get(reverse("account_login")), "Sign in")
        # the same code is worth nothing a second time
        self.client.post(reverse("account_logout"))
        self.sign_in()
        self.assertEqual(self.client.post(step, {"code": shown}).status_code, 422)

    def test_codes_cannot_be_tried_out(self) -> None:
        secret = self.set_up()
        self.client.post(reverse("account_logout"))
        with override_settings(ACCOUNT_RATE_LIMITS={"login_failed": "200/5m/ip,5/5m/key"}):
            self.sign_in()
            for tried in range(5):
                self.client.post(reverse("mfa_authenticate"), {"code": f"00000{tried}"})
            found = self.client.post(reverse("mfa_authenticate"), {"code": self.code_shown(secret)})
        self.assertEqual(found.status_code, 422)
        self.assertContains(found, "Too many", status_code=422)

    def test_a_code_on_paper_stands_in_once(self) -> None:
        self.set_up()
        codes = self.client.get(reverse("mfa_view_recovery_codes")).context["unused_codes"]
        self.assertEqual(len(set(codes)), 10)
        for status in (302, 422):
            self.client.post(reverse("account_logout"))
            self.sign_in()
            found = self.client.post(reverse("mfa_authenticate"), {"code": codes[0]})
            self.assertEqual(found.status_code, status)
        self.client.post(reverse("mfa_authenticate"), {"code": codes[1]})
        self.client.post(reverse("account_reauthenticate"), {"password": PASSWORD})
        self.assertContains(self.client.get(reverse("mfa_index")), "8 of your codes on paper are unused")
        self.client.post(reverse("mfa_generate_recovery_codes"))
        fresh = self.client.get(reverse("mfa_view_recovery_codes")).context["unused_codes"]
        self.assertFalse(set(fresh) & set(codes))

    def test_the_password_is_asked_for_before_anything_is_changed(self) -> None:
        self.set_up()
        self.at += 3600
        for name in ("mfa_deactivate_totp", "mfa_generate_recovery_codes"):
            asked = self.client.post(reverse(name))
            self.assertIn("/sign-in/again/", asked["Location"])
        self.assertIn("/sign-in/again/", self.client.get(reverse("mfa_view_recovery_codes"))["Location"])
        again = reverse("account_reauthenticate")
        self.assertEqual(self.client.post(again, {"password": "wrong"}).status_code, 422)
        self.assertEqual(Authenticator.objects.filter(user=self.ines).count(), 2)
        self.client.post(again, {"password": PASSWORD})
        self.assertContains(self.client.get(reverse("mfa_deactivate_totp")), "Take the second step away")
        self.client.post(reverse("mfa_deactivate_totp"))
        self.assertEqual(Authenticator.objects.filter(user=self.ines).count(), 0)
        self.client.post(reverse("account_logout"))
        self.assertEqual(self.sign_in(), "/")

    def test_a_technician_lifts_it(self) -> None:
        self.set_up()
        link_for(self.ines.email)
        self.assertEqual(Authenticator.objects.filter(user=self.ines).count(), 2)
        link_for(self.ines.email, without_second_step=True)
        self.assertEqual(Authenticator.objects.filter(user=self.ines).count(), 0)

    def test_what_is_kept_is_worth_nothing_without_the_secret_of_the_installation(self) -> None:
        secret = self.set_up()
        kept = Authenticator.objects.get(user=self.ines, type=Authenticator.Type.TOTP)
        self.assertNotIn(secret, str(kept.data))
        with override_settings(SECRET_KEY="another" * 8):
            self.assertFalse(kept.wrap().validate_code(self.code_shown(secret)))
        # a secret that is no longer the first is still known
        with override_settings(SECRET_KEY="another" * 8, SECRET_KEY_FALLBACKS=[settings.SECRET_KEY]):
            self.assertTrue(kept.wrap().validate_code(self.code_shown(secret)))
        self.assertTrue(kept.wrap().validate_code(self.code_shown(secret)))
