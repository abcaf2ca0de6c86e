"""Radios with a voice sent through them; made when they are first asked for."""

import pytest

from tests.core.radios import handset_set, hf_set, packet_set


@pytest.fixture
def hf():
    return hf_set()


@pytest.fixture
def handset():
    return handset_set()


@pytest.fixture
def packet():
    return packet_set()
