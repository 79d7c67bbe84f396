"""What a person types into the editor for each leaflet in tests/data/leaflets/."""

from dataclasses import dataclass


@dataclass(frozen=True)
class OwnKit:
    """A leaflet; what its reader holds; each field and what is typed or chosen there, in order.

    A button's words begin with "+". pasted: the leaflet's table. figure: what the walk reads.
    """

    leaflet: str
    title: str
    held: str
    typed: tuple[tuple[str, str], ...]
    figure: str
    pasted: str = ""


DRAIN = (("+", "Add to Waste"), ("What is left", "the tested sample"),
         ("What the person is told", "Down the drain with plenty of water."))  # fmt: skip
KITS = (
    OwnKit("peroxide-drops", "Peroxide, white case", "Drops", (
        ("Which kit", "White case, 10 mL"), ("Name of the result", "Peroxide"),
        ("Parameter", "Hydrogen peroxide"), ("Portion, mL", "10"), ("One drop stands for", "2"),
        ("Stop after, drops", "20"), ("Colour at the start, its name", "colourless"),
        ("Colour at the end, its name", "faint pink"),
        ("When to stop", "Stop when a faint pink stays for 15 seconds."), *DRAIN,
    ), "7"),
    OwnKit("zinc-strip", "Zinc strip, tin of 50", "Strip", (
        ("Which kit", "Tin of 50 strips"), ("Name of the result", "Zinc"), ("Parameter", "Zinc"),
        ("Seconds", "15"), ("+", "Add to Waste"), ("What is left", "the used strip"),
        ("Where it goes", "strips"), ("What the person is told", "Into the bin."),
    ), "20–50", "0 white\n5 pale orange\n20 orange\n50 dark orange\n100 red"),
    OwnKit("ozone-ampoule", "Ozone ampoules", "Ampoule", (
        ("Which kit", "Six standards"), ("Name of the result", "Ozone"), ("Parameter", "Ozone"),
        ("Seconds", "60"), ("+", "Add to Waste"), ("What is left", "ampoule and tip"),
        ("Where it goes", "glass"),
        ("What the person is told", "Into the vessel for broken glass."),
    ), "0.4", "0.0 0.1 0.2 0.4 0.6 0.8"),
    OwnKit("bromine-photometer", "Bromine, hand photometer", "Photometer", (
        ("Which kit", "Hand photometer and powder"), ("Name of the result", "Bromine"),
        ("Parameter", "Bromine"), ("Range to", "9.00"), ("Seconds", "30"), *DRAIN,
    ), "1.80"),
    OwnKit("cyanuric-depth", "Cyanuric acid by a black dot", "Depth and table", (
        ("Which kit", "Tube with a black dot"), ("Name of the result", "Cyanuric acid"),
        ("Parameter", "Cyanuric acid"), ("Scale from", "3.0"), ("Scale to", "12.0"),
        ("Read to", "0.5"), *DRAIN,
    ), "67", "3.0 100\n4.0 80\n5.5 60\n8.0 40\n12.0 25"),
    OwnKit("sulphide-tablets", "Sulphide by tablets", "Tablets", (
        ("Which kit", "Bottle and tablets"), ("Name of the result", "Sulphide"),
        ("Parameter", "Sulphide"), ("Portion, mL", "50"), ("One tablet stands for", "3"),
        ("The formula takes off", "another amount"), ("Takes off", "1"),
        ("Stop after, tablets", "12"), ("Measurements at least", "2"),
        ("Colour at the end, its name", "blue"),
        ("When to stop", "Stop when blue stays."), *DRAIN,
    ), "11"),
)  # fmt: skip
