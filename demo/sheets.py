"""Sheets of the demo: five models with what they offer, forty parts, twenty converters. Nothing here exists."""

OFFERS = {
    "Orrin Desk 16": """
slots
  1: bus 8-bit; clock 8; length 340; height 107
  2: bus 16-bit; clock 8; length 340; height 107
  3: bus 16-bit; clock 8; length 340; height 107
  4: bus 16-bit; clock 8; length 340; height 107
  5: bus 16-bit; clock 8; length 340; height 107
  6: bus 8-bit; clock 8; length 190; height 107
sockets
  processor: kind 132-pin; volts 5; bus 16, 20; bus now 16; multipliers 1, 2; watts 4; clear 30
  maths: kind 68-pin; volts 5; bus 16, 20; bus now 16; multipliers 1; watts 3; clear 30
firmware
  BIOS: version 3.4; knows step B, step C; largest disk 504 MiB
board
  board: soldered 0 MiB; most 16 MiB; group 2; matched yes; volts 5; slowest 80; parity yes; display 256 KiB; display most 512 KiB
modules
  A1: kind 30-pin; bank A; turn 1; largest 4 MiB; clear 25
  A2: kind 30-pin; bank A; turn 1; largest 4 MiB; clear 25
  A3: kind 30-pin; bank A; turn 1; largest 4 MiB; clear 25
  A4: kind 30-pin; bank A; turn 1; largest 4 MiB; clear 25
  B1: kind 30-pin; bank B; turn 2; largest 4 MiB; clear 25
  B2: kind 30-pin; bank B; turn 2; largest 4 MiB; clear 25
  B3: kind 30-pin; bank B; turn 2; largest 4 MiB; clear 25
  B4: kind 30-pin; bank B; turn 2; largest 4 MiB; clear 25
buses
  disk port: interface ATA 16-bit; plug 40-way; units 2; bootable yes; largest 504 MiB; rate 3.3
  floppy port: interface floppy; plug 34-way; units 2; bootable yes; largest 2880 KiB; rate 0.06
bays
  upper: size 5.25 inch; height 41.3; length 203; rails yes
  lower: size 5.25 inch; height 41.3; length 203; rails yes
  small: size 3.5 inch; height 25.4; length 150; rails yes
rails
  +5: amps 20; least 1; board 6.4
  +12: amps 8; board 0.8
  -12: amps 0.5; board 0.12
supply
  supply: watts 200; feed AC; volts 220 to 240
connectors
  drive: count 3
  small drive: count 1
ports
  keyboard: protocol keyboard AT; plug 5-pin DIN
  COM1: protocol serial; plug 9-pin D male
pictures
  display: plug 15-pin D; signal analogue RGB; sync separate; line 31.469; field 59.94
devices
  timer: irq 0; io 40-43
  keys: irq 1; io 60-64
  link: irq 2
  COM2: irq 3; io 2F8-2FF
  COM1: irq 4; io 3F8-3FF
  floppy: irq 6; dma 2; io 3F0-3F5
  printer: irq 7; io 378-37F
  clock: irq 8; io 70-71
  maths: irq 13
  disk: irq 14; io 1F0-1F7
  refresh: dma 0
  second half: dma 4
disks
  system: formats 1.2M, 360K, 1.44M
""",
    "Corvane Stack 4": """
slots
  1: bus 16-bit; clock 8; length 340; height 107
  2: bus local bus; clock 33; length 340; height 107; follows yes
  3: bus PCI 32; clock 33; length 312; height 107; follows no
  4: bus PCI 32; clock 33; length 174; height 107; follows no; shares 1
sockets
  processor: kind 237-pin; volts 3.3 to 5; bus 25, 33, 40, 50; bus now 33; multipliers 1, 2, 3; watts 9; clear 24
firmware
  BIOS: version 1.10; knows step B, step C, step D; largest disk 504 MiB
board
  board: soldered 0 MiB; most 64 MiB; group 2; matched no; volts 5; slowest 70; parity no; display 1 MiB; display most 2 MiB
modules
  1: kind 72-pin; bank first; turn 1; largest 16 MiB; clear 32
  2: kind 72-pin; bank first; turn 1; largest 16 MiB; clear 32
  M3: kind 72-pin; bank second; turn 2; largest 16 MiB; clear 32
  M4: kind 72-pin; bank second; turn 2; largest 16 MiB; clear 32
buses
  disk port: interface ATA 16-bit; plug 40-way; units 2; bootable yes; largest 504 MiB; rate 8.3
  floppy port: interface floppy; plug 34-way; units 2; bootable yes; largest 2880 KiB
bays
  top: size 5.25 inch; height 41.3; length 203; rails yes
  middle: size 5.25 inch; height 41.3; length 203; rails no
  hidden: size 3.5 inch; height 41.3; length 150; rails yes
rails
  +5: amps 20; least 1; board 5.1
  +12: amps 8; board 0.6
  -12: amps 0.5; board 0.1
  -5: amps 0.3; board 0
supply
  supply: watts 200; feed AC; volts 220 to 240
connectors
  drive: count 4
ports
  keyboard: protocol keyboard AT; plug 6-pin mini DIN
  mouse: protocol mouse PS/2; plug 6-pin mini DIN
pictures
  display: plug 15-pin D; signal analogue RGB; sync separate; line 31.469; field 59.94
devices
  floppy: irq 6; dma 2; io 3F0-3F5
  COM1: irq 4; io 3F8-3FF
  printer: irq 7; io 378-37F
  clock: irq 8
  maths: irq 13
  disk: irq 14; io 1F0-1F7
removals
  cache card: sits cache slot; into processor
disks
  system: formats 1.44M
""",
    "Halden M2": """
slots
  inner: bus own; called Halden direct slot; clock 7.8; length 180; height 95
board
  board: soldered 0 MiB; most 4 MiB; group 2; matched no; volts 5; slowest 150; parity no; display 22 KiB
modules
  A: kind 30-pin; bank upper; turn 1; largest 1 MiB; clear 30
  B: kind 30-pin; bank upper; turn 1; largest 1 MiB; clear 30
  C: kind 30-pin; bank lower; turn 2; largest 1 MiB; clear 20
  D: kind 30-pin; bank lower; turn 2; largest 1 MiB; clear 20
buses
  SCSI: interface SCSI 8-bit; plug 50-way; units 7; bootable yes; largest 2 GiB; ends yes; rate 1.5
bays
  front: size 3.5 inch; height 41.3; length 150; rails yes
rails
  +5: amps 6; board 2.8
  +12: amps 3; board 1.1
supply
  supply: watts 76; feed AC; volts 220 to 240
connectors
  small drive: count 1
ports
  keys: protocol Halden keyboard bus; plug 4-pin modular
pictures
  own tube: plug inside; signal mono TTL; line 22.25; field 60.15
devices none
disks
  system: formats 720K
""",
    "Orrin Slate 20": """
slots none
sockets none
board
  board: soldered 4 MiB; most 12 MiB; group 1; matched no; volts 5; slowest 80; parity no; display 256 KiB
modules
  door: kind own; bank door; turn 1; largest 8 MiB; clear 6
buses
  inside: interface ATA 16-bit; plug 44-way small; units 1; bootable yes; largest 504 MiB; rate 1.8
bays
  inside: size 2.5 inch; height 19; length 102; rails yes
rails
  +5: amps 2.2; board 1.2
supply
  supply: watts 30; feed DC; volts 14 to 16
connectors none
ports
  keyboard: protocol keyboard AT; plug 6-pin mini DIN
pictures
  outside: plug 15-pin D; signal analogue RGB; sync separate; line 31.469; field 59.94
disks
  system: formats 1.44M
""",
    "Tessaly 64": """
slots
  cartridge: bus own; called Tessaly cartridge; clock 1; length 140; height 90
sockets none
board
  board: soldered 64 KiB; most 64 KiB; display 16 KiB
modules none
buses
  serial bus: interface own; called Tessaly serial bus; plug 6-pin DIN; units 4; bootable yes
bays none
supply
  supply: watts 12; feed AC; volts 9 to 10
ports
  joystick: protocol joystick; plug 9-pin D male
pictures
  monitor: plug 8-pin DIN; signal luma and chroma; sync composite; line 15.625; field 50.12
  television: plug phono; signal aerial; line 15.625; field 50.12
devices none
""",
}
PARTS = {
    "SCSI host card, 16-bit": """
cards
  card: bus 16-bit; length 162; height 99; fastest 10
uses
  J4: irq 9, 10, 11, 12; now 10
  J5: dma 5, 6, 7; now 5
  J6: io 330-333, 340-343; now 330-333
draws
  +5: amps 1.9
firmware
  U9: wants 2.0; less sees only the first 1 GiB; newest 2.4; newest on March 1994
changes
  it: reversible yes; modern no
""",
    "Network card, 16-bit": """
cards
  card: bus 16-bit; length 160; height 99; fastest 10
uses
  J1: irq 5, 10, 11; now 10
  J2: io 300-31F, 320-33F; now 300-31F
draws
  +5: amps 0.8
changes
  it: reversible yes; modern no
brings
  network: words 10 Mbit/s, coaxial and twisted pair
""",
    "Display card, 16-bit": """
cards
  card: bus 16-bit; length 240; height 99; fastest 10
uses
  fixed: io 3B0-3DF; now 3B0-3DF
draws
  +5: amps 1.6
""",
    "Display card, 512 KiB": "cards\n card: bus 16-bit; length 200; height 99; fastest 10; display 512 KiB\nuses\n fixed: io 2E0-2EF; now 2E0-2EF\ndraws\n +5: amps 0.9",
    "Display card, 1 MiB": "cards\n card: bus 16-bit; length 330; height 99; fastest 10; display 1 MiB\nuses\n fixed: io 2E0-2EF; now 2E0-2EF\ndraws\n +5: amps 1.3",
    "Serial and printer card, 8-bit": """
cards
  card: bus 8-bit; length 130; height 99; fastest 10
uses none
draws
  +5: amps 0.4
  -12: amps 0.05
brings
  serial and printer: words one of each
""",
    "Sound card, 8-bit": """
cards
  card: bus 8-bit; length 150; height 99; fastest 8.33
uses
  J2: irq 3, 5, 7; now 7
  J3: dma 1, 3; now 1
  J1: io 220-22F, 240-24F; now 220-22F
draws
  +5: amps 0.5
  +12: amps 0.2
changes
  it: reversible yes; modern no; minutes 20
brings
  sound: words speech and music, eight voices
""",
    "Display card, PCI": "cards\n card: bus PCI 32; length 170; height 99; fastest 33\nuses none\ndraws\n +5: amps 1.8",
    "Network card, PCI": "cards\n card: bus PCI 32; length 120; height 99; fastest 33\nuses none\ndraws\n +5: amps 0.4",
    "Storage card, PCI Express": "cards\n card: bus PCI Express; generation 2; lanes 4; length 170; height 68; fastest 100\nuses none\ndraws\n +12: amps 0.5",
    "Display card, local bus": "cards\n card: bus local bus; length 250; height 99; fastest 33\nuses none\ndraws\n +5: amps 2.1",
    "Memory card, 8-bit": "cards\n card: bus 8-bit; length 335; height 107; fastest 8\nuses none\ndraws\n +5: amps 1.2",
    "Direct-slot accelerator": "cards\n card: bus own; called Halden direct slot; length 170; height 90; fastest 8\nuses none\ndraws\n +5: amps 1.4\nchanges\n it: reversible yes; modern no",
    "Diagnostic cartridge": "cards\n card: bus own; called Tessaly cartridge; length 120; height 80; fastest 2\nuses none\ndraws none",
    "Memory module 1 MiB, 30-pin": "modules\n m: kind 30-pin; size 1 MiB; speed 70; parity yes; volts 5; height 20; make K1-70\ndraws\n +5: amps 0.1",
    "Memory module 1 MiB, 30-pin, other make": "modules\n m: kind 30-pin; size 1 MiB; speed 70; parity yes; volts 5; height 20; make M1-7\ndraws\n +5: amps 0.1",
    "Memory module 4 MiB, 30-pin": "modules\n m: kind 30-pin; size 4 MiB; speed 60; parity yes; volts 5; height 24; make K4-60\ndraws\n +5: amps 0.2",
    "Memory module 1 MiB, 30-pin, 8 bits": "modules\n m: kind 30-pin; size 1 MiB; speed 80; parity no; volts 5; height 20; make S1-8\ndraws\n +5: amps 0.1",
    "Memory module 8 MiB, 72-pin": "modules\n m: kind 72-pin; size 8 MiB; speed 60; parity no; volts 5; height 25; make K8-60\ndraws\n +5: amps 0.3",
    "Memory module 16 MiB, 72-pin": "modules\n m: kind 72-pin; size 16 MiB; speed 70; parity no; volts 5; height 30; make K16-7\ndraws\n +5: amps 0.4",
    "Memory module 32 MiB, 72-pin": "modules\n m: kind 72-pin; size 32 MiB; speed 60; parity no; volts 5; height 31; make K32-6\ndraws\n +5: amps 0.6",
    "Processor 66 MHz, doubled": "processors\n p: kind 237-pin; step step C; volts 5; bus 33; multiplier 2; most 66; watts 7; height 14; thick pins no\ndraws\n +5: amps 1.2",
    "Processor 100 MHz, tripled": "processors\n p: kind 237-pin; step step D; volts 3.3; bus 33; multiplier 3; most 100; watts 5; height 19; thick pins no\ndraws\n +5: amps 1.4",
    "Upgrade board, round pins": "processors\n p: kind 237-pin; step step D; volts 5; bus 33, 40; multiplier 3; most 120; watts 8; height 30; thick pins yes\ndraws\n +5: amps 1.9",
    "Processor 16 MHz": "processors\n p: kind 132-pin; step step B; volts 5; bus 16; multiplier 1; most 16; watts 2; height 6; thick pins no\ndraws none",
    "Maths chip 16 MHz": "processors\n p: kind 68-pin; volts 5; bus 16; multiplier 1; most 16; watts 2; height 5; thick pins no\ndraws\n +5: amps 0.4\nbrings\n maths chip: words reckons with broken numbers",
    "Disk 40 MB, 16-bit": "drives\n d: interface ATA 16-bit; plug 40-way; bay 3.5 inch; height 25.4; length 146; size 40 MB; start yes; id 1; rate 0.9\ndraws\n +5: amps 0.5\n +12: amps 0.4; more at start 1.1\ntakes\n drive: count 1",
    "Disk 1.2 GB, 16-bit": "drives\n d: interface ATA 16-bit; plug 40-way; bay 3.5 inch; height 25.4; length 146; size 1200 MB; start yes; id 0; rate 4\ndraws\n +5: amps 0.6\n +12: amps 0.5; more at start 1.5\ntakes\n drive: count 1",
    "Disk 20 MB, 8-bit": "drives\n d: interface ATA 8-bit; plug 40-way; bay 3.5 inch; height 41.3; length 146; size 20 MB; id 0; rate 0.3\ndraws\n +5: amps 0.7\n +12: amps 0.7; more at start 1.4\ntakes\n drive: count 1",
    "Disk 4 GB, wide SCSI": "drives\n d: interface SCSI 16-bit; plug 68-way; bay 3.5 inch; height 25.4; length 146; size 4 GB; terminated yes; id 0; rate 10\ndraws\n +5: amps 0.8\n +12: amps 0.7; more at start 1.6\ntakes\n drive: count 1",
    "Disk 80 MB, SCSI": "drives\n d: interface SCSI 8-bit; plug 50-way; bay 3.5 inch; height 25.4; length 146; size 80 MB; terminated yes; id 0; start yes; rate 1.1\ndraws\n +5: amps 0.6\n +12: amps 0.5; more at start 1\ntakes\n small drive: count 1",
    "Disk 120 MB, 2.5 inch": "drives\n d: interface ATA 16-bit; plug 44-way small; bay 2.5 inch; height 17; length 100; size 120 MB; start yes; id 0; rate 1.2\ndraws\n +5: amps 0.5; more at start 0.6",
    "Solid-state disk module": "drives\n d: interface ATA 16-bit; plug 40-way; bay 3.5 inch; height 12; length 70; size 512 MB; start yes; id 0; rate 12\ndraws\n +5: amps 0.2\nchanges\n it: reversible yes; modern yes; replaces disk\nbrings\n solid-state disk: words silent, 512 MB",
    "Diskette drive, 720 kB": "drives\n d: interface floppy; plug 34-way; bay 3.5 inch; height 25.4; length 150; reads 720K; writes 720K; id 0; rate 0.03\ndraws\n +5: amps 0.3\n +12: amps 0.2\ntakes\n small drive: count 1",
    "Diskette drive, 1.2 MB": "drives\n d: interface floppy; plug 34-way edge; bay 5.25 inch; height 41.3; length 203; reads 1.2M, 360K; writes 1.2M, 360K; id 0; rate 0.06\ndraws\n +5: amps 0.6\n +12: amps 0.6\ntakes\n drive: count 1",
    "Diskette drive, 1.44 MB": "drives\n d: interface floppy; plug 34-way; bay 3.5 inch; height 25.4; length 150; reads 1.44M, 720K; writes 1.44M, 720K; id 0; rate 0.06\ndraws\n +5: amps 0.3\n +12: amps 0.2\ntakes\n small drive: count 1\nserves\n diskette drive: origin of its time",
    "Orrin diskette drive, grey front": "drives\n d: interface floppy; plug 34-way; bay 3.5 inch; height 25.4; length 150; reads 1.44M, 720K; writes 1.44M, 720K; id 0; rate 0.06\ndraws\n +5: amps 0.3\n +12: amps 0.2\ntakes\n small drive: count 1\nbrings\n its own drive: words with the grey front it left the works with\nserves\n diskette drive: origin original",
    "Diskette reader for memory cards": "drives\n d: interface floppy; plug 34-way; bay 3.5 inch; height 25.4; length 100; reads 1.44M, 720K, 1.2M, 360K; writes 1.44M, 720K, 1.2M, 360K; id 0; rate 0.06\ndraws\n +5: amps 0.2\ntakes\n small drive: count 1\nchanges\n it: reversible yes; modern yes; minutes 30\nbrings\n card reader: words a card holds a thousand diskettes\nserves\n diskette drive: origin modern",
    "Slim drive in a printed frame": "drives\n d: interface floppy; plug 26-way flat; bay 3.5 inch; height 25.4; length 130; reads 1.44M, 720K; writes 1.44M, 720K; id 0; rate 0.06\ndraws\n +5: amps 0.2\ntakes\n small drive: count 1\nchanges\n it: reversible yes; modern no; minutes 45\nserves\n diskette drive: origin made",
    "SCSI card, 8-bit": "cards\n card: bus 8-bit; length 120; height 99; fastest 10\nuses\n J1: io 340-34F, 350-35F; now 340-34F\ndraws\n +5: amps 0.6\nbuses\n SCSI: interface SCSI 8-bit; plug 50-way; units 7; bootable yes; largest 1 GiB; ends no; rate 1.2\nbrings\n SCSI: words seven devices",
    "Solid-state disk, SCSI": "drives\n d: interface SCSI 8-bit; plug 50-way; bay 3.5 inch; height 15; length 100; size 256 MB; start yes; terminated yes; id 1; rate 5\ndraws\n +5: amps 0.3\ntakes\n drive: count 1\nchanges\n it: reversible yes; modern yes\nbrings\n solid-state disk: words silent, 256 MB",
    "Splitter, drive to two small": "takes\n drive: count 1\ndraws none\nconnectors\n small drive: count 2\nchanges\n it: reversible yes; modern no\nbrings none",
    "Processor 40 MHz, doubled": "processors\n p: kind 132-pin; step step C; volts 5; bus 20; multiplier 2; most 40; watts 3; height 12; thick pins no\ndraws\n +5: amps 0.8\nbrings\n too fast for old programs: words those that count by loops",
    "Keyboard, six pins": "wires\n k: protocol keyboard AT; plug 6-pin mini DIN\ndraws\n +5: amps 0.2",
    "Keyboard of the first kind": "wires\n k: protocol keyboard XT; plug 5-pin DIN\ndraws\n +5: amps 0.2",
    "Screen, colour, 15 kHz": "screens\n s: plug 9-pin D; signals RGBI; line 15.6 to 15.8; field 55 to 61; fixed yes\ndraws none",
    "Screen, 50 Hz composite": "screens\n s: plug phono; signals composite; line 15.5 to 15.7; field 48 to 52; fixed yes\ndraws none",
    "Screen, several rates": "screens\n s: plug 15-pin D; signals analogue RGB; line 30 to 58; field 50 to 90; fixed no\ndraws none",
    "Adapter 9 V AC": "gives\n a: feed AC; volts 9\ndraws none",
    "Adapter 9 V DC": "gives\n a: feed DC; volts 9\ndraws none",
    "Adapter 15 V DC": "gives\n a: feed DC; volts 15\ndraws none",
}
# Name: its ways, what a seller wants for it; a drawer where we have it.
CONVERTERS = (
    (
        "Adapter 68-way to 50-way",
        "goes in 50-way; comes out 68-way; loss upper byte ended inside, half speed",
        "9.00",
        "",
    ),
    ("Adapter 40-way to 44-way", "goes in 40-way; comes out 44-way small", "4.00", "E1"),
    ("Adapter 44-way to 40-way", "goes in 44-way small; comes out 40-way", "4.00", ""),
    ("Card edge adapter, 34", "goes in 34-way; comes out 34-way edge", "6.00", "E1"),
    ("Keyboard plug, 5 to 6 pins", "goes in 5-pin DIN; comes out 6-pin mini DIN", "3.00", "E2"),
    ("Keyboard plug, 6 to 5 pins", "goes in 6-pin mini DIN; comes out 5-pin DIN", "3.00", "E2"),
    ("Lead, 9-pin to 25-pin", "goes in 9-pin D male; comes out 25-pin D male", "5.00", "E3"),
    ("Lead, board to drive", "goes in board; comes out drive", "2.50", ""),
    ("Lead, drive to small drive", "goes in drive; comes out small drive", "2.00", "E4"),
    ("Lead, small drive to drive", "goes in small drive; comes out drive", "2.00", ""),
    (
        "Lead, luma and chroma to composite",
        "goes in 8-pin DIN/luma and chroma; comes out phono/composite; loss fine detail",
        "7.00",
        "E5",
    ),
    ("Tuner box", "goes in phono/aerial; comes out phono/composite; loss noise, soft edges", "12.00", ""),
    (
        "Composite to analogue box",
        "goes in phono/composite; comes out 15-pin D/analogue RGB; loss colours run, soft; delay 20; line in 15.5 to 15.8; line out 31.469; field out 60",
        "24.00",
        "",
    ),
    (
        "Line doubler",
        "goes in 9-pin D/RGBI; comes out 15-pin D/analogue RGB; delay 0; line in 15.5 to 15.9; line out 31.469",
        "68.00",
        "",
    ),
    ("RGBI lead", "goes in 9-pin D/RGBI; comes out 15-pin D/analogue RGB; loss brown is dark yellow", "11.00", ""),
    (
        "Mono adapter",
        "goes in 9-pin D/mono TTL; comes out 15-pin D/analogue RGB; loss two greys; line in 18 to 18.6",
        "19.00",
        "",
    ),
    (
        "Picture down-converter",
        "goes in 15-pin D/analogue RGB; comes out phono/composite; loss text can’t be read; delay 33; line in 31 to 38; line out 15.625; field out 50",
        "21.00",
        "",
    ),
    (
        "Down-converter, 60 Hz",
        "goes in 15-pin D/analogue RGB; comes out 9-pin D/RGBI; loss 16 colours; delay 16; line in 31 to 32; line out 15.734; field out 59.94",
        "45.00",
        "",
    ),
    ("Digital picture box", "goes in 15-pin D/analogue RGB; comes out digital; delay 8; line in 31 to 64", "18.00", ""),
    ("Flat cable adapter, 34 to 26", "goes in 34-way; comes out 26-way flat", "5.00", "E1"),
    ("Joystick adapter", "goes in 9-pin D male; comes out 15-pin D female", "6.00", ""),
)
# Converters that have firmware of their own.
FIRMWARE = {
    "Line doubler": "\nfirmware\n  U2: version 1.2; wants 1.1; newest 1.4; newest on May 2026",
    "Digital picture box": "\nfirmware\n  U1: version 0.9; wants 0.9; newest 0.9; newest on January 2026",
}
