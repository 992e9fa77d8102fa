"""The proof by packets, on the real page."""

from __future__ import annotations

from tests.browser.workbench import Workbench
from tests.proof.test_proof import kernel


@kernel
def test_a_pair_is_proved(bench: Workbench) -> None:
    """Begun from Reach for the chosen pair; what was computed stands beside what was seen, of this draft; a row leads to its pair."""
    bench.open("reach?from=keepers&to=life-support")
    bench.click("Proof")
    bench.click("Only keepers → life-support")
    bench.wait(lambda: "no difference" in bench.find("[data-testid=proof]").text)
    assert "Of draft 1" in bench.find("[data-testid=proof]").text
    bench.click("Show all")
    rows = [e.text for e in bench.all("[data-testid=proof] tbody tr")]
    assert any("an answer" in r and "tcp/502" in r for r in rows)
    assert any("silent" in r and "no rule matches" in r for r in rows)
    bench.all("[data-testid=proof] tbody button")[0].click()
    bench.wait(lambda: not bench.all("[data-testid=proof]"))
    assert "from=keepers" in bench.driver.current_url
