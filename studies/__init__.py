"""Proofs that draw benches, slips, faults and attacks at random and count: the tests run short forms of them.

`python -m studies.coverage_page` (`slips_page`, `faults_page`, `triage_page`, `durability_page`) runs one at length and
writes its page in docs/method. Whatever makes a job in a few lines, for a study or a test, is in `builders`, `benches`
and `references`.
"""
