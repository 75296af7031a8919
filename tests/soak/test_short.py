"""The soak in two minutes: nothing acknowledged is lost, nothing is doubled, nothing answers 500, memory stays within its bounds."""

from bench.soak import soak


def test_two_minutes_of_mixed_use_with_kills(capsys):
    code = soak(110, kills=5, odd=120, hostile=40)
    told = capsys.readouterr().out
    print(told)
    assert code == 0, told
    assert "lost: 0" in told
    assert " kills: {" in told
