"""The words that line maths knows: functions, constants, Greek letters and their other spellings."""

from __future__ import annotations

ALGEBRA = (
    "sqrt root abs exp ln log lg floor ceil round sgn min max mod gcd lcm binomial choose "
    "sin cos tan sec csc cot asin acos atan asec acsc acot "
    "sinh cosh tanh sech csch coth asinh acosh atanh"
)
CALCULUS = "diff integral sum product limit"
AUTHOR = (
    "expand factor simplify solve substitute value mean median stdev variance sample_stdev sample_variance quantile "
    "total count item sorted normal_cdf binomial_pmf if"
)
STRUCTURES = "vec matrix list"

FUNCTIONS = frozenset(f"{ALGEBRA} {CALCULUS} {AUTHOR} {STRUCTURES}".split())

# Functions that never take an argument without brackets.
BRACKETED = frozenset(f"{CALCULUS} {AUTHOR} {STRUCTURES} root min max mod gcd lcm binomial choose".split())

SYNONYMS = {
    "arcsin": "asin", "arccos": "acos", "arctan": "atan", "arcsinh": "asinh", "arccosh": "acosh",
    "arctanh": "atanh", "arsinh": "asinh", "arcosh": "acosh", "artanh": "atanh", "cosec": "csc",
    "tg": "tan", "ctg": "cot", "cotg": "cot", "arctg": "atan", "arcctg": "acot", "arccot": "acot",
    "sign": "sgn", "ceiling": "ceil", "lg": "log", "prod": "product", "int": "integral",
}  # fmt: skip

CONSTANTS = {"pi": "pi", "π": "pi", "e": "e", "infinity": "infinity", "inf": "infinity", "∞": "infinity"}

GREEK = {
    "alpha": "α", "beta": "β", "gamma": "γ", "delta": "δ", "epsilon": "ε", "zeta": "ζ", "eta": "η",
    "theta": "θ", "iota": "ι", "kappa": "κ", "lambda": "λ", "mu": "μ", "nu": "ν", "xi": "ξ",
    "rho": "ρ", "sigma": "σ", "tau": "τ", "phi": "φ", "chi": "χ", "psi": "ψ", "omega": "ω",
    "Gamma": "Γ", "Delta": "Δ", "Theta": "Θ", "Lambda": "Λ", "Xi": "Ξ", "Sigma": "Σ", "Phi": "Φ",
    "Psi": "Ψ", "Omega": "Ω",
}  # fmt: skip

# What stands between the brackets of a function that takes more than one argument, ready to be filled in.
ARGUMENTS = {
    "root": "3, ", "min": ", ", "max": ", ", "gcd": ", ", "lcm": ", ", "mod": ", ", "binomial": ", ", "choose": ", ",
    "round": ", ", "diff": ", x", "integral": ", x", "sum": ", k, 1, n", "product": ", k, 1, n", "limit": ", x, 0",
    "solve": ", x", "substitute": ", x, ", "quantile": ", ", "item": ", 1", "if": ", , ", "vec": ", ",
    "matrix": ", ; , ", "normal_cdf": ", , ", "binomial_pmf": ", , ",
}  # fmt: skip
# Every function as it is offered while somebody types, those of algebra first.
COMPLETIONS = tuple(
    f"{name}({ARGUMENTS.get(name, '')})" for name in f"{ALGEBRA} {CALCULUS} {AUTHOR} {STRUCTURES}".split()
)

# The inverse of a function written with the exponent -1.
INVERSES = {name: "a" + name for name in ["sin", "cos", "tan", "sec", "csc", "cot", "sinh", "cosh", "tanh"]}
