"""What a number means: limits, verdicts with their reason, and what would decide a close call.

limits     limit sets as data, each limit with document, edition and statistic
verdict    one value against one limit
decide     what would settle a close call
gauge      the small sign's geometry
"""

from kessa_core.judging.gauge import Gauge, gauge
from kessa_core.judging.limits import Limit, LimitSet, limit_set, limit_sets
from kessa_core.judging.verdict import Verdict, judge, most_serious_verdict, verdicts_on

__all__ = [
    "Gauge",
    "Limit",
    "LimitSet",
    "Verdict",
    "gauge",
    "judge",
    "limit_set",
    "limit_sets",
    "most_serious_verdict",
    "verdicts_on",
]
