"""Where the demo listens: the port that is asked for, or the next free one."""

import socket

import pytest

from gentle_ledger.cli.ports import PortTaken, free_from
from tests.servers import free_port


def test_a_taken_port_gives_the_next_free_one():
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert free_from(port) > port
        assert free_from(port, port + 1) > port + 1
    free = free_port()
    assert free_from(free) == free
    with pytest.raises(PortTaken, match="in use"):
        free_from(65_536)
