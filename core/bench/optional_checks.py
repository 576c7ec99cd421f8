"""Checks that not every shop wants on every plan: at hand, and in use once the shop turns them on.

Rails: +3.3 V within 5 %, -5 V and -12 V within 10 %, ripple on +12 V up to 120 mV peak to peak (ATX12V design
guide, from memory). Contacts up to 50 mOhm, colour inputs of 75 Ohm within 5 %: common practice, no source.
"""

from core.bench.checks import Check, CheckKind, Group, check_limits
from core.safety import Hazard

OPTIONAL: tuple[Check, ...] = (
    Check(
        "look-cell",
        Group.LOOK,
        "Cell and charger agree",
        "Read the cell and find out whether the board charges it. "
        "Count the cells of a pack: their volts add up to what the board wants.",
        when="battery!=none|out",
        hazards=(Hazard.LITHIUM, Hazard.LEAK),
        caution="A primary cell that is charged bursts or burns. Don’t power the board until the two agree.",
        why="A rechargeable cell without a charger only goes flat. "
        "Some machines don’t switch on without their cell: note that before one is called dead.",
        gate=True,
        kind=CheckKind.CELLS,
        minutes=4,
    ),
    Check(
        "safe-bleeder",
        Group.SAFE,
        "How long the PSU takes to discharge",
        "Read the large capacitor and its bleeder, unplugged. Wait that long at least, then measure.",
        when="supply=switching|unknown & form!=adapter|cabinet",
        hazards=(Hazard.CHARGE,),
        caution="No bleeder known, or one that is open: discharge by hand with the proper tool, and measure.",
        kind=CheckKind.BLEED,
        minutes=3,
    ),
    Check(
        "cold-caps",
        Group.COLD,
        "Suspect capacitors, measured out of circuit",
        "Lift one leg and measure. "
        "What a part reads in circuit, through everything beside it, only says where to look.",
        when="swollen",
        hazards=(Hazard.CHARGE, Hazard.STATIC, Hazard.SOLDER),
        needs="capacitance meter",
        kind=CheckKind.PART,
        minutes=12,
    ),
    Check(
        "cold-contact",
        Group.COLD,
        "Supply plug, contact resistance",
        "Four wires: a known current through the contact, the meter right on both sides of it. "
        "Each pin of the PSU plug.",
        when="form!=cabinet|chip|adapter",
        hazards=(Hazard.CHARGE,),
        limits=check_limits("0", "0.01", "0.05", "Ω"),
        needs="bench supply with current limit",
        minutes=8,
    ),
    Check(
        "cold-75",
        Group.COLD,
        "Colour inputs end in 75 Ω",
        "Power off, cable off. Each colour input to its ground.",
        when="form=monitor|all_in_one",
        hazards=(Hazard.CHARGE,),
        limits=check_limits("71.25", "75", "78.75", "Ω"),
        minutes=4,
    ),
    Check(
        "supply-3v3",
        Group.SUPPLY,
        "+3.3 V under load, PSU alone",
        "Load on the +3.3 V output. Only supplies of the later kind have it.",
        when="supply=switching & form!=monitor|adapter|cabinet",
        hazards=(Hazard.LIVE,),
        limits=check_limits("3.135", "3.3", "3.465"),
        minutes=3,
    ),
    Check(
        "supply-minus5",
        Group.SUPPLY,
        "−5 V, PSU alone",
        "Black probe on ground. The reading has its minus sign.",
        when="supply=switching & form!=monitor|adapter|cabinet",
        hazards=(Hazard.LIVE,),
        limits=check_limits("-5.5", "-5", "-4.5"),
        minutes=3,
    ),
    Check(
        "supply-minus12",
        Group.SUPPLY,
        "−12 V, PSU alone",
        "Black probe on ground. The reading has its minus sign. Serial ports want it.",
        when="supply=switching & form!=monitor|adapter|cabinet",
        hazards=(Hazard.LIVE,),
        limits=check_limits("-13.2", "-12", "-10.8"),
        minutes=3,
    ),
    Check(
        "ripple-12v",
        Group.SUPPLY,
        "Ripple on +12 V under load",
        "Scope on the +12 V output under load, short ground lead, 20 MHz limit. Peak to peak.",
        when="supply=switching & form!=monitor|adapter|cabinet",
        hazards=(Hazard.LIVE,),
        caution="Never ground a scope to the mains side.",
        limits=check_limits("0", "0.05", "0.12"),
        needs="scope",
        minutes=5,
    ),
    Check(
        "fn-before",
        Group.FUNCTION,
        "Benchmark before the upgrade",
        "Three runs or more of one test at one setting, kept under Benchmarks. The same again when the upgrade is in.",
        when="approach=enhanced & machine",
        minutes=10,
    ),
)
