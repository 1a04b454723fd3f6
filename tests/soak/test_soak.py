"""The short form of `make soak`, in every run."""

from tests.soak.soak import soak


def test_kills_of_sender_server_and_carrier_send_nothing_twice_and_lose_nothing(tmp_path):
    assert "each arrived once" in soak(tmp_path, kills=10, seed=7)
