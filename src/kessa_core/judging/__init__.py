"""What a number means: limits, verdicts with their reason, and what would decide a close call.

limits     a limit with its document and statistic
limit_sets limit sets as documents, and those shipped
verdict    one value against one limit
comparing  how a value stands to a limit
decide     what would settle a close call
gauge      the small sign's geometry
"""

from kessa_core.judging.gauge import Gauge, gauge
from kessa_core.judging.limit_sets import LimitSet, limit_set, limit_sets
from kessa_core.judging.limits import Limit
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
