"""How much of a stock makes a weaker solution: C1 V1 = C2 V2."""

from kessa_core.errors import NotANumber


def aliquot_ml(stock_mg_l: float, target_mg_l: float, final_ml: float) -> float:
    """mL of stock to fill up to *final_ml*: mg/L, mg/L, mL -> mL.

    Raises NotANumber where the target is stronger than the stock.
    """
    if target_mg_l > stock_mg_l:
        raise NotANumber(
            "The target is stronger than the stock; diluting cannot reach it.",
            field="target_mg_l",
        )
    return target_mg_l * final_ml / stock_mg_l
