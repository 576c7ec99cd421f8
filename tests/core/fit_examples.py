"""A machine and parts of which everything is known, and ways to change them: for the tests of what fits."""

from decimal import Decimal

from core.catalogue.fit.machine import Fitted, Machine
from core.catalogue.fit.needs import Convert, Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.paths import Converter, Ways
from core.catalogue.fit.schema import read_record, read_sheet
from core.machine.approach import Approach

D = """
slots
  1: bus 8-bit; clock 8; length 340; height 107
  2: bus 16-bit; clock 8; length 340; height 107
  3: bus 16-bit; clock 8; length 160; height 107
sockets
  processor: kind 168-pin; volts 3.3 to 5; bus 25, 33, 40, 50; bus now 33; multipliers 1, 2; watts 10; clear 22
firmware
  U9: version 2.1; knows step B; largest disk 504 MiB
board
  board: soldered 0 MiB; most 64 MiB; group 2; matched yes; volts 5; slowest 70; parity no; display 256 KiB; \
display most 1 MiB
modules
  A1: kind 72-pin; bank A; turn 1; largest 16 MiB; clear 30
  A2: kind 72-pin; bank A; turn 1; largest 16 MiB; clear 30
  B1: kind 72-pin; bank B; turn 2; largest 16 MiB; clear 30
  B2: kind 72-pin; bank B; turn 2; largest 16 MiB; clear 30
buses
  disk port: interface ATA 16-bit; plug 40-way; units 2; bootable yes; largest 504 MiB; rate 3.3
  outer: interface SCSI 8-bit; plug 50-way; units 7; bootable no; largest 4 GiB; ends yes
bays
  lower: size 5.25 inch; height 41.3; length 203; rails yes
rails
  +5: amps 20; least 1; board 11.2
  +12: amps 8; board 1
supply
  supply: watts 250; feed AC; volts 220 to 240
connectors
  drive: count 2
ports
  keyboard: protocol keyboard AT; plug 5-pin DIN
pictures
  display: plug 9-pin D; signal RGBI; line 15.734; field 59.94
devices
  clock: irq 8
  floppy: irq 6; dma 2; io 3F0-3F7
removals
  cache card: sits cache slot; into processor
disks
  system: formats 360K, 720K
"""

PARTS = """
cards
  card: bus 16-bit; length 162; height 99; fastest 10
uses
  J4: irq 10, 11; now 10
  J5: dma 5, 6; now 5
  J6: io 330-333, 340-343; now 330-333
draws
  +5: amps 1.9
takes
  drive: count 1
"""


def needs(text: str = PARTS) -> Needs:
    return read_sheet(Needs, text)


def machine(text: str = D, fitted=(), **more) -> Machine:
    """`fitted`: (name, where, needs as text)."""
    more = {"approach": Approach.ENHANCED, "whole": True} | more
    parts = tuple(Fitted(name, needs(said) if said else Needs(draws=(), uses=()), at) for name, at, said in fitted)
    return Machine(read_sheet(Offers, text), parts, **more)


def said(text: str, old: str, new: str) -> str:
    """The text with one place of it put otherwise, which must be there."""
    assert old in text, old
    return text.replace(old, new, 1)


def ways(*converters: tuple[str, str, str]) -> Ways:
    """Converters as (name, line of what it converts, price or empty for in stock)."""
    return Ways(
        Converter(name, read_record(Convert, f"way: {line}"), Decimal(price or 0), not price, "drawer")
        for name, line, price in converters
    )
