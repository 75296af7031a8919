"""One-time codes against the standard's own values."""

import base64

import pytest

from fotaxis.identity.codes import OneTimeCodes

SECRET = base64.b32encode(b"12345678901234567890").decode()


@pytest.mark.parametrize(
    ("at", "eight_digits"), [(59, "94287082"), (1111111109, "07081804"), (1234567890, "89005924"), (2000000000, "69279037")]
)
def test_codes_are_those_of_the_standard(at, eight_digits):
    # RFC 6238, appendix B, SHA-1; six digits are the last six of its eight.
    codes = OneTimeCodes()
    assert codes.step_of(SECRET, eight_digits[2:], at=at) == at // 30
    assert codes.step_of(SECRET, eight_digits[2:], at=at + 30) == at // 30  # half a minute late
    assert codes.step_of(SECRET, eight_digits[2:], at=at + 90) is None


def test_odd_codes_and_secrets_are_no_match():
    codes = OneTimeCodes()
    for code in ("", "abcdef", "1234567", "١٢٣٤٥٦", "0" * 5000):
        assert codes.step_of(SECRET, code, at=59) is None
    assert codes.step_of("no secret!", "123456", at=59) is None
    assert codes.step_of(codes.new_secret(), "", at=59) is None
