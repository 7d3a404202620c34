"""The server asks whose a large body is while it comes in; a database that went away and came back is asked again."""

from __future__ import annotations

from unittest import mock

from django.db import connection
from django.db.utils import OperationalError
from django.test import TransactionTestCase

from nettlecap import web_server
from nettlecap.guard import bodies


class Gate(TransactionTestCase):
    def test_a_connection_that_broke_is_begun_anew(self) -> None:
        self.assertFalse(web_server.is_known("a" * 32))
        if connection.vendor == "postgresql":
            # As the database's own death would: it is closed behind our back.
            connection.connection.close()
            self.assertFalse(web_server.is_known("a" * 32))
        answers = [OperationalError("the connection is closed"), True]
        with mock.patch.object(bodies, "is_signed_in", side_effect=answers):
            self.assertTrue(web_server.is_known("a" * 32))

    def test_one_that_stays_away_is_told(self) -> None:
        away = OperationalError("the connection is closed")
        with mock.patch.object(bodies, "is_signed_in", side_effect=[away, away]), self.assertRaises(OperationalError):
            web_server.is_known("a" * 32)
