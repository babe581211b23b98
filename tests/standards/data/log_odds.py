# Log-odds with an informative Dirichlet prior, from equation 16 of Monroe, Colaresi & Quinn 2008,
# in exact fractions and fifty digits; written from the paper's formula, not from the product's code. JSON in, JSON out.
import json
import sys
from decimal import Decimal, getcontext
from fractions import Fraction

getcontext().prec = 50


def ln(x):
    return (Decimal(x.numerator) / Decimal(x.denominator)).ln()


def delta(here, of_here, elsewhere, of_elsewhere, prior):
    a_w = Fraction(prior) * (here + elsewhere) / (of_here + of_elsewhere)
    a_0 = Fraction(prior)

    def log_odds(y, n):
        return ln((y + a_w) / (n + a_0 - y - a_w))

    return log_odds(Fraction(here), of_here) - log_odds(Fraction(elsewhere), of_elsewhere)


print(json.dumps([float(delta(*case)) for case in json.load(sys.stdin)]))
