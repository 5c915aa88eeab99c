"""Facts of the trade, asked of built jobs and not of the files. Common practice, no source, unless said otherwise."""

from __future__ import annotations

import pytest

from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.models.family import Family
from creekbed.core.hygiene.together import never_together
from creekbed.core.hygiene.touch import Answer, may_touch
from tests.core.procedure.trade import Job

FAMILIES = sorted(shipped().families)


def bears(material: str, agent: str, exposure: str = "brief") -> Answer:
    return may_touch(shipped().materials[material], agent, exposure)


def forms(*agents: str) -> list[str]:
    c = shipped()
    return [clash.forms for clash in never_together(c.agents, c.never.values(), agents)]


def fam(key: str) -> Family:
    return shipped().families[key]


SAX, CLA, BSN, TPT, TBN, VLN, VCL, DB, GTR = (
    "alto_saxophone", "clarinet", "bassoon", "trumpet", "trombone", "violin", "cello", "double_bass", "acoustic_guitar"
)  # fmt: skip
WOOD = {"upper": "wood_bore", "lower": "wood_bore", "barrel": "wood_bore"}
POLICY = "policies"

FACTS = {
    # --- handling, chapter of the families
    "the case lies rounded side up, latches toward you": lambda: Job(SAX).says(
        "contents", "rounded side up", "latches"
    ),
    "every case is opened first of all": lambda: all(Job(f).steps[0].kind == "contents" for f in shipped().families),
    "each piece into its own slot before the next": lambda: Job(SAX).says("apart", "own slot before the next"),
    "a lid is never forced": lambda: all(
        Job(f).says("pack", "does not close by itself") for f in shipped().families if f != "bow"
    ),
    "the saxophone is picked up by the bell or the bare tube": lambda: Job(SAX).says("apart", "bell or the bare tube"),
    "never lifted by rods, keys or guards": lambda: Job(SAX).says("apart", "never lift by rods, keys or key guards"),
    "big end first into the case": lambda: Job(SAX).says("pack", "body into the case, big end first"),
    # --- saxophone
    "reed off before the ligature": lambda: Job(SAX).order("reed_off", "ligature_off"),
    "reed off before the neck": lambda: Job(SAX).order("reed_off", "neck_off"),
    "the reed goes into a flat case": lambda: Job(SAX).says("apart", "flat reed case"),
    "the ligature comes off before the mouthpiece is twisted": lambda: Job(SAX).order("ligature_off", "mouthpiece_off"),
    "the neck is never spun round": lambda: Job(SAX).says("apart", "never spin the neck round", "octave key"),
    "the neck screw only a little": lambda: Job(SAX).says("apart", "neck screw a little", "falls out"),
    "the plug goes in once the neck is off": lambda: Job(SAX).order("neck_off", "plug_off"),
    "the plug comes out before the neck goes in": lambda: (
        Job(SAX).moves("together").index("plug_on") < Job(SAX).moves("together").index("neck_on")
    ),
    "the end plug must be in the case": lambda: any(i.key == "end_plug" and i.kind == "safety" for i in fam(SAX).item),
    "together is not simply the reverse": lambda: (
        [m[:-3] for m in Job(SAX).moves("together")] != [m[:-4] for m in reversed(Job(SAX).moves("apart"))]
    ),
    "the mouthpiece goes onto the loose neck": lambda: (
        Job(SAX).moves("together").index("own_mouthpiece_on") < Job(SAX).moves("together").index("neck_on")
    ),
    "the strap is hooked before the plug comes out": lambda: (
        Job(SAX).moves("together").index("strap_on") < Job(SAX).moves("together").index("plug_on")
    ),
    "the strap's hook is pulled to prove": lambda: Job(SAX).says("together", "pull at the hook"),
    "1/4 to 1/3 inch of cork stays free": lambda: (
        fam(SAX).find_check("neck_cork").bands.green_from == 6.5  # type: ignore[union-attr]
        and Job(SAX).says("together", "1/4 to 1/3 in")
    ),
    "the reed is slid under the ligature": lambda: (
        Job(SAX).moves("together").index("own_ligature_on") < Job(SAX).moves("together").index("own_reed_on")
    ),
    "a hairline of mouthpiece shows above the reed": lambda: Job(SAX).says("together", "hairline"),
    "the wider end of the ligature first": lambda: Job(SAX).says("together", "wide end on first"),
    "wet enough when it clings": lambda: Job(SAX).says("together", "clings to the table by itself", "synthetic"),
    "the cap goes on over all": lambda: (
        Job(SAX).moves("pack").index("spacer_on") < Job(SAX).moves("pack").index("cap_on")
    ),
    "cork greased before the mouthpiece goes on": lambda: Job(SAX, findings={"cork_feel": "dry"}).forced(
        "cork_grease", "together"
    ),
    "the mouthpiece is swabbed from its shank": lambda: Job(SAX).enters("mouthpiece_swab") == "shank",
    "the neck from its wide end": lambda: Job(SAX).enters("neck_swab") == "wide end",
    "the body from the bell": lambda: Job(SAX).enters("body_swab") == "bell",
    "mouthpiece, neck, body": lambda: Job(SAX).order("mouthpiece_swab", "neck_swab", "body_swab"),
    "body first in the other policy": lambda: Job(SAX, policies={"sax_order": "body_first"}).order(
        "body_swab", "neck_swab"
    ),
    "two pulls by default": lambda: Job(SAX).says("body_swab", "2 slow pulls"),
    "a stuck swab goes back the way it came": lambda: Job(SAX).says("body_swab", "back the way it came"),
    "pads are blotted after the swab": lambda: Job(SAX, findings={"pads": "G sharp: wet"}).forced(
        "body_swab", "pads_blot"
    ),
    "no dragging, no powder under a pad": lambda: Job(SAX, findings={"pads": "G sharp: wet"}).says(
        "pads_blot", "do not drag", "no powder"
    ),
    "the brush rod follows the swab and comes out": lambda: (
        Job(SAX).forced("body_swab", "brush_rod") and (Job(SAX).step("brush_rod").wait or None) is not None
    ),
    "never a brush rod in that policy": lambda: not Job(SAX, policies={"sax_brush_rod": "never"}).has("brush_rod"),
    "needle springs prick": lambda: Job(SAX).says("outside", "needle springs"),
    "the neck must not swing": lambda: Job(SAX).says("play", "must not swing the neck"),
    # --- mouthpieces
    "hard rubber is washed cool": lambda: (
        Job(SAX).says("mouth_wash", "cool water", "mild soap") and "lukewarm_water" not in Job(SAX).agents()
    ),
    "hard rubber stays cool even where the house washes warm": lambda: (
        "lukewarm_water" not in Job(SAX, policies={"mouthpiece_wash": "lukewarm"}).agents()
    ),
    "washed before disinfecting": lambda: Job(SAX).forced("mouth_wash", "disinfect"),
    "rinsed after disinfecting": lambda: Job(SAX).forced("disinfect", "rinse"),
    "contact time is wet time": lambda: bool(Job(SAX).step("disinfect").wait and Job(SAX).step("disinfect").wait.wet),  # type: ignore[union-attr]
    "lime: soft brush, then vinegar": lambda: Job(SAX, findings={"mouthpiece": "lime"}).says(
        "descale", "soft toothbrush", "vinegar"
    ),
    "vinegar is rinsed off before peroxide": lambda: Job(SAX, findings={"mouthpiece": "lime"}).forced(
        "descale", "disinfect"
    ),
    # --- reeds
    "a new reed for a new renter": lambda: Job(SAX).has("reed_new") and not Job(SAX).has("reed_clean"),
    "a reed lies in peroxide about 30 minutes": lambda: (
        Job(SAX, renter="same").step("reed_clean").wait.min_minutes == 30
    ),  # type: ignore[union-attr]
    "never in a capped vessel": lambda: Job(SAX, renter="same").says("reed_clean", "open vessel"),
    "it is rinsed several times": lambda: Job(SAX, renter="same").says("reed_rinse", "rinse it several times"),
    "grease kept from a young child": lambda: Job(SAX, renter="young_child").has("grease_apart"),
    # --- clarinet
    "4 corks": lambda: Job(CLA, policies={"cork_grease": "weekly"}).says("cork_grease", "4 corks"),
    "the mouthpiece cork stays dry": lambda: Job(CLA).says("disinfect", "below the cork", "swells"),
    "a bud where there is a cork": lambda: Job(CLA).says("mouth_wash", "cotton bud"),
    "a swab enters the upper joint from its wide end": lambda: Job(CLA).enters("upper_swab") == "wide end",
    "the register tube catches the cloth": lambda: Job(CLA).says("upper_swab", "register tube", "narrow end"),
    "the bridge key is lifted": lambda: Job(CLA).says("together", "bridge key lifts"),
    "the bridge key is lifted taking it apart too": lambda: Job(CLA).says("apart", "bridge key lifts"),
    "bell to lower joint with its keys held closed": lambda: Job(CLA).says("together", "keys held closed"),
    "barrel, wider end up": lambda: Job(CLA).says("together", "wider end up"),
    "mouthpiece first, so that it is washed meanwhile": lambda: Job(CLA).order(
        "mouthpiece_off", "barrel_off", "bell_off", "middle_off"
    ),
    "the other policy begins at the bell": lambda: Job(CLA, policies={"clarinet_apart": "bell_first"}).order(
        "bell_off", "middle_off", "barrel_off", "mouthpiece_off"
    ),
    "never stood on its bell": lambda: Job(CLA).says_anywhere("never stand a clarinet on its bell"),
    "bore oil on wood only": lambda: Job(CLA, materials=WOOD).has("bore_oil") and not Job(CLA).has("bore_oil"),
    "no oil for resin": lambda: "bore_oil" not in Job(CLA).agents(),
    "oil has hours to soak in": lambda: Job(CLA, materials=WOOD).step("bore_oil").wait.min_minutes >= 60,  # type: ignore[union-attr]
    "oily rags heat themselves": lambda: Job(CLA, materials=WOOD).says("bore_oil", "heat themselves"),
    "oiled lately, not oiled again": lambda: (
        not Job(CLA, materials=WOOD, lately={"bore_oil": 30, "oil_wipe": 30}).has("bore_oil")
    ),
    "sockets hold water": lambda: Job(CLA).says("tenons_wipe", "insides of the sockets"),
    # --- double reeds
    "bassoon apart: reed, bocal, bell, lock, long, wing": lambda: Job(BSN).order(
        "reed_off", "bocal_off", "bell_off", "lock_off", "long_off", "wing_off"
    ),
    "the bocal never by its thin end": lambda: Job(BSN).says("apart", "never hold it by the thin end"),
    "the bell's key is held down": lambda: Job(BSN).says("apart", "bell's key held down"),
    "water leaves the boot by the smaller, lined bore": lambda: Job(BSN).says("boot_water", "smaller bore", "lined"),
    "shaken out before the silk": lambda: Job(BSN).forced("boot_water", "boot_swab"),
    "the boot from the larger bore": lambda: Job(BSN).enters("boot_swab") == "larger bore",
    "the boot once only": lambda: Job(BSN).says("boot_swab", "once only"),
    "the wing from the end that enters the boot": lambda: Job(BSN).enters("wing_swab") == "boot end",
    "the wing twice": lambda: Job(BSN).says("wing_swab", "2 slow pulls"),
    "bell and long joint are usually dry": lambda: Job(BSN).says("long_swab", "only if wet"),
    "swab cords wound loosely": lambda: Job(BSN).says("after_wing", "loosely"),
    "the oboe's top joint is never forced": lambda: Job("oboe").says("upper_swab", "never forced", "wide end"),
    "double reeds are soaked in water, not the mouth": lambda: Job("oboe").says("together", "not in the mouth"),
    # --- flute
    "no bare end of the rod": lambda: Job("flute").says("head_swab", "wind it over the rod", "no bare end"),
    "a flute never by its keys": lambda: Job("flute").says("apart", "never grip a flute by its keys"),
    "a flute's foot by its plain end": lambda: Job("flute").says("apart", "foot by its plain end"),
    "no polish near pads": lambda: Job("flute").says("outside", "no polish near pads"),
    "thin plain paper under a flute's pad": lambda: Job("flute", findings={"pads": "G sharp: wet"}).says(
        "pads_blot", "thin plain paper"
    ),
    # --- brass
    "valves out, caps, slides, rings": lambda: Job(TPT).order(
        "valves_off", "caps_off", "stop_off", "slide_3_off", "rings_off"
    ),
    "stop ring before the third slide": lambda: Job(TPT).order("stop_off", "slide_3_off"),
    "rubber rings off before the bath": lambda: (
        Job(TPT).forced("apart", "bath") and "rings_off" in Job(TPT).moves("apart")
    ),
    "rings on before the slide": lambda: (
        Job(TPT).moves("together").index("rings_on") < Job(TPT).moves("together").index("slide_1_on")
    ),
    "stop ring after the slide, in its playing position": lambda: (
        Job(TPT).moves("together").index("slide_3_on") < Job(TPT).moves("together").index("stop_on")
        and Job(TPT).says("together", "playing position")
    ),
    "caps before the valves, finger-tight": lambda: (
        Job(TPT).moves("together").index("caps_on") < Job(TPT).moves("together").index("valves_on")
        and Job(TPT).says("together", "finger-tight")
    ),
    "each valve into its own casing": lambda: Job(TPT).says("together", "own casing", "click"),
    "valve 1 stands nearest the player (from memory)": lambda: Job(TPT).says(
        "together", "valve 1 stands nearest the player"
    ),
    "the second slide's knob faces out": lambda: Job(TPT).says("together", "knob faces out"),
    "lukewarm, never above 40": lambda: (
        Job(TPT).says("bath", "lukewarm", "40 °c") and "hot_water" not in Job(TPT).agents()
    ),
    "pistons soak no higher than the top of the piston": lambda: Job(TPT, findings={"valve_return": "2: slow"}).says(
        "piston_jar", "no higher than the top of the piston", "felts"
    ),
    "a snake is not forced round tight bends": lambda: Job(TPT).says("bath_rinse", "never forced round tight bends"),
    "dried before greasing": lambda: Job(TPT).forced("bath_dry", "together"),
    "dried last as others do": lambda: Job(TPT, policies={"brass_drying": "last"}).forced("together", "dry_last"),
    "blow-through proves the valves": lambda: Job(TPT).forced("together", "blow_through"),
    "parts of two never mix": lambda: Job(TPT).says("apart", "never mix"),
    "glass cleaner on the cloth only, free of ammonia": lambda: Job(TPT, policies={"brass_outside": "glass"}).says(
        "outside_glass", "on the cloth", "ammonia"
    ),
    "silver polish on silver only": lambda: (
        not Job(TPT, policies={"brass_outside": "polish"}).has("outside_polish")
        and Job(TPT, policies={"brass_outside": "polish"}, finishes={"body": "silver_plate"}).has("outside_polish")
    ),
    "no force on a stuck mouthpiece": lambda: Job(TPT).says("apart", "never force a stuck mouthpiece"),
    "no bath within the month in that policy": lambda: (
        not Job(TPT, policies={"brass_care": "monthly"}, lately={"bath": 9, "bath_rinse": 9, "bath_dry": 9}).has("bath")
    ),
    # --- trombone, horn
    "lock the slide before lifting": lambda: Job(TBN).says("contents", "lock the slide before you lift"),
    "never against the closed end": lambda: Job(TBN).says(
        "outer_bores", "never run it against the closed end", "no cloth leaves"
    ),
    "inner tubes gripped gently, turning": lambda: Job(TBN).says("inner_wipe", "gently gripped, turning"),
    "drops on the stockings, second part along 10 to 20 cm": lambda: Job(TBN).says(
        "slide_two_part", "stockings", "10 to 20 cm", "water mist"
    ),
    "cream on the stockings only": lambda: Job(TBN, policies={"slide_lubricant": "cream"}).says(
        "slide_cream", "stocking only"
    ),
    "never oil on a hand slide": lambda: (
        Job(TBN).says("slide_two_part", "never oil") and "valve_oil" not in Job(TBN).agents()
    ),
    "the lift test after cleaning": lambda: (
        Job(TBN).says("lift_proof", "must stay down") and Job(TBN).forced("bath_dry", "lift_proof")
    ),
    "rotors are not taken out at this bench (from memory)": lambda: (
        Job("horn").says("apart", "rotors stay in") and not any("rotor" in m for m in Job("horn").moves("apart"))
    ),
    # --- violin family
    "bow out frog first, tip first back": lambda: (
        Job(VLN).says("apart", "frog first") and Job(VLN).says("pack", "tip first")
    ),
    "never touch the hair": lambda: Job(VLN).says("apart", "never touch the hair"),
    "dry cleaning only": lambda: (
        {a for s in Job(VLN).steps if "body" in s.pieces or "bow" in s.pieces for a in s.agents}
        <= {"dry_cloth", "rosin"}
    ),
    "strings whole length, both ways, behind too": lambda: Job(VLN).says("dust_strings", "whole length", "both ways"),
    "shoulder rest off before casing": lambda: (
        Job(VLN).says("apart", "crushes") and "rest_on" not in Job(VLN).moves("pack")
    ),
    "rosin: thumb over the ferrule": lambda: Job(VLN, findings={"bow_speaks": "silent"}).says(
        "bow_rosin", "thumb over the ferrule"
    ),
    "one string at a time": lambda: Job(VLN, findings={"strings": "A: worn, D: worn"}).forced(
        "string_on.A", "string_on.D"
    ),
    "eye protection when tuning up": lambda: Job(VLN, findings={"strings": "A: worn"}).says(
        "string_on", "eye protection"
    ),
    "pencil in the notches": lambda: Job(VLN, findings={"strings": "A: worn"}).says("string_on", "pencil in the nut"),
    "the bridge is the luthier's": lambda: fam(VLN).find_check("bridge_lean").verdict == "specialist",
    "fine tuners and chin rest may be done here": lambda: Job(VLN, findings={"chin_rest": "moves"}).has("chin_tighten"),
    "nobody in that policy": lambda: (
        not Job(VLN, findings={"chin_rest": "moves"}, policies={"minor_adjust": "nobody"}).has("chin_tighten")
    ),
    "cello: bow out first, in last": lambda: (
        Job(VCL).moves("apart")[0] == "bow_off" and Job(VCL).moves("pack")[-1] == "bow_on"
    ),
    "bass: straps, pin, zips, bow, bag": lambda: Job(DB).order(
        "straps_off", "pin_off", "zips_off", "bow_off", "bag_off"
    ),
    "bass: bow last into the bag": lambda: Job(DB).moves("pack")[-1] == "bow_on",
    "bass in: bag, zip, pin, straps": lambda: Job(DB).moves("pack")[:4] == ["bag_on", "zips_on", "pin_on", "straps_on"],
    "never on the back": lambda: (
        Job(VCL).says("contents", "never on its back") and Job(DB).says("contents", "never on its back")
    ),
    "cello strings: the back of each near the bridge": lambda: Job(VCL).says("dust_strings", "back of each string"),
    "G3 D4 A4 E5": lambda: [s.pitch for s in fam(VLN).stringed.strings] == ["G3", "D4", "A4", "E5"],  # type: ignore[union-attr]
    "a bass sounds an octave lower": lambda: fam(DB).sounds == -12 and fam("bass_guitar").sounds == -12,
    "loosened until a few hairs hang loose": lambda: Job(VLN).says("bow_loosen", "few hairs hang loose"),
    "bows have their own tag": lambda: Job("bow").says("contents", "own tag"),
    # --- guitar
    "a soft artist's brush between the strings": lambda: Job(GTR).says("brush", "soft artist's brush"),
    "magnets hold dust": lambda: Job("electric_guitar").says("brush", "magnets hold dust"),
    "polish on the cloth, buffed off": lambda: Job(GTR).says("polish", "on the cloth", "buffed off"),
    "no polish on satin": lambda: not Job(GTR, finishes={"body": "satin"}).has("polish"),
    "the fingerboard is not waxed by default": lambda: not Job(GTR).has("polish_board"),
    "strap locks are pulled to prove": lambda: Job(GTR, findings={"strap_locks": "fail"}).says(
        "lock_new", "pull to prove"
    ),
    "belt buckles scratch the back": lambda: Job(GTR).says("look", "belt buckles"),
    # --- hygiene: agents, mixes, contact
    "a missing entry means no": lambda: not bears("bow_wood", "peroxide").allowed,
    "hot water is not for hard rubber": lambda: not bears("hard_rubber", "hot_water").allowed,
    "hot water is not for lacquer": lambda: not bears("lacquer", "hot_water").allowed,
    "water is not for cork, felt or pads": lambda: (
        not any(
            bears(m, a).allowed for m in ("cork", "felt", "pad") for a in ("cool_water", "lukewarm_water", "hot_water")
        )
    ),
    "alcohol cracks acrylic and dissolves varnish": lambda: (
        "crack" in bears("acrylic", "alcohol").why and "dissolves" in bears("varnish", "alcohol").why
    ),
    "no ammonia on any brass": lambda: (
        not any(bears(m, "ammonia").allowed for m in ("brass", "bare", "lacquer", "silver_plate", "nickel_plate"))
    ),
    "bleach pits brass and blackens silver": lambda: (
        "pits" in bears("bare", "hypochlorite").why and "blackens" in bears("silver_plate", "hypochlorite").why
    ),
    "quaternary ammonium only by its label": lambda: "label" in bears("hard_rubber", "quat").why,
    "vinegar is short, on lime, never on silver": lambda: (
        bears("hard_rubber", "vinegar", "short").allowed and not bears("silver_plate", "vinegar", "short").allowed
    ),
    "peroxide is borne by cane": lambda: bears("cane", "peroxide", "short").allowed,
    "nothing but a cloth comes to strings": lambda: shipped().materials["string"].may == {"dry_cloth": "yes"},
    "bleach and vinegar make chlorine": lambda: forms("hypochlorite", "vinegar") == ["chlorine gas"],
    "bleach and alcohol make chloroform": lambda: "chloroform" in forms("hypochlorite", "alcohol")[0],
    "peroxide and vinegar make peracetic acid": lambda: "peracetic" in forms("peroxide", "vinegar")[0],
    "soap makes quaternary ammonium useless": lambda: "useless" in forms("quat", "soap")[0],
    "an unknown product is unsafe with all": lambda: forms("peroxide", "a green bottle") != [],
    "no mix in a drink bottle, none unlabelled": lambda: Job(SAX).says("mix", "label it", "never in a drink bottle"),
    "mixed with gloves, eyes covered, fresh air": lambda: Job(SAX).says("mix", "gloves, eye protection, fresh air"),
    "strong to weak": lambda: Job(SAX).says("mix", "stock into the jug first"),
    "the label comes first": lambda: Job(SAX).says("mix", "the label comes first"),
    "sprayed and wiped at once is not disinfected": lambda: Job(SAX, policies={"sanitising": "spray"}).says(
        "sanitise_spray", "not disinfected"
    ),
    "a reed floats: its playing end is seen to be wet": lambda: Job(SAX, renter="same").says(
        "reed_clean", "float", "playing end"
    ),
    "peroxide of reeds is thrown away": lambda: Job(SAX, renter="same").says_anywhere("throw"),
    "the reed case is cleaned too": lambda: Job(SAX, renter="same").has("reed_case_wash"),
    "cold water first, then hot": lambda: Job(TPT).says("bath", "cold water first"),
    "12 l at 38 from 55 and 14 °C: 7 l hot (arithmetic)": lambda: Job(TPT).says(
        "bath", "5.0 l cold first", "7.0 l hot"
    ),
    "the hot tap scalds in seconds": lambda: Job(TPT).says("bath", "scalds in about"),
    "mains stay away from the bath": lambda: Job(TPT).says("bath", "mains leads"),
    # --- hygiene: case and cloths
    "every case is vacuumed and aired": lambda: all(Job(f).says("case_clean", "vacuum", "air") for f in FAMILIES),
    "no mothballs, no ozone in a case": lambda: Job(VLN).says("case_clean", "no mothballs", "no ozone"),
    "a clean case before anything is packed": lambda: all(Job(f).forced("case_clean", "pack") for f in FAMILIES),
    "a damp swab never in its pouch": lambda: Job(SAX, dry_cloth=False).says(
        "cloths_wash", "loose", "never in a plastic pouch"
    ),
    "cloths that bleed are washed apart": lambda: Job(VLN, dry_cloth=False).says("cloths_wash", "bleed dye"),
    # --- fitting out
    "a thin film, the rest wiped off": lambda: Job(SAX, findings={"cork_feel": "creaks"}).says(
        "cork_grease", "thin film", "wipe off"
    ),
    "grease is not eaten": lambda: Job(SAX, findings={"cork_feel": "dry"}).says("cork_grease", "small children"),
    "slides are greased round both legs": lambda: Job(TPT).says("together", "both legs"),
    "thin oil swallowed: no vomiting": lambda: Job("horn").says("rotor_oil", "no vomiting"),
    "what each slide took is logged": lambda: Job(TBN).says("slide_two_part", "note what this one takes"),
    "one leg at a time": lambda: Job(TBN).says("slide_two_part", "one leg at a time"),
    "bore oil never on pads": lambda: Job(CLA, materials=WOOD).says("bore_oil", "pads"),
    "two or three turns round a guitar's post": lambda: Job(GTR, findings={"strings": "E2: worn"}).says(
        "string_on", "two or three neat turns"
    ),
    "old string ends are sharp": lambda: Job(VLN, findings={"strings": "A: worn"}).says("string_on", "sharp", "bin"),
    "a new string is let settle and retuned twice": lambda: (
        Job(VLN, findings={"strings": "A: worn"}).forced("hang", "retune_1")
        and Job(VLN, findings={"strings": "A: worn"}).forced("retune_1", "retune_2")
    ),
    "E2 A2 D3 G3 B3 E4": lambda: (
        [s.pitch for s in fam(GTR).stringed.strings] == ["E2", "A2", "D3", "G3", "B3", "E4"]  # type: ignore[union-attr]
    ),
    "C2 G2 D3 A3 and E1 A1 D2 G2": lambda: (
        [s.pitch for s in fam(VCL).stringed.strings] == ["C2", "G2", "D3", "A3"]  # type: ignore[union-attr]
        and [s.pitch for s in fam(DB).stringed.strings] == ["E1", "A1", "D2", "G2"]  # type: ignore[union-attr]
    ),
    "a full-size violin string speaks over 328 mm (from memory)": lambda: (
        fam(VLN).stringed.length_mm["4/4"] == 328  # type: ignore[union-attr]
    ),
    "rosin along the whole length, new hair much more": lambda: Job(VLN, findings={"bow_speaks": "silent"}).says(
        "bow_rosin", "whole length", "new hair"
    ),
    "a bow is loosened before it is cased": lambda: Job(VLN).forced("after_bow", "pack"),
    "a battery that leaks is caustic": lambda: Job("electric_guitar").says("play", "caustic"),
    "hearing in long play-tests": lambda: Job(SAX).says("play", "hearing"),
    # --- clean stays clean
    "after playing the reed comes off first": lambda: (
        Job(SAX).moves("again")[0] == "own_screws_off" and Job(SAX).moves("again")[1] == "own_reed_off"
    ),
    "after playing: reed, neck, body, wipe, pads, air, case": lambda: (
        Job(SAX).order("play", "after_apart", "after_neck", "after_body", "after_wipe", "after_air", "pack")
        and Job(SAX).order("after_body", "after_pads", "after_air")
    ),
    "a fresh swab after playing": lambda: all(
        Job(f).step(k).fresh for f, k in ((SAX, "after_body"), (CLA, "after_joints"), ("flute", "after_body"))
    ),
    "a clarinet airs lying": lambda: Job(CLA).says("after_air", "lying flat"),
    "bassoon: water out through the lined bore first": lambda: Job(BSN).order("after_water", "after_boot"),
    "the lip plate is disinfected again, and last": lambda: Job("flute").order(
        "lip_rinse", "play", "after_body", "after_lip", "after_lip_rinse", "after_air", "pack"
    ),
    "brass: water keys, slides' water, outside wiped, valves stay in": lambda: (
        Job(TPT).order("after_empty", "after_wipe", "after_air")
        and Job(TPT).says("after_empty", "water keys", "each slide")
        and Job(TPT).says("after_apart", "valves stay in")
    ),
    "rosin off, stick wiped, bow loosened": lambda: (
        Job(VLN).order("play", "after_bow", "after_rosin", "pack")
        and Job(VLN).says("after_rosin", "under them", "fingerboard", "dry")
        and Job(VLN).says("after_bow", "loosen", "wipe the stick, not the hair")
    ),
    "what tightens a bow is followed by what loosens it": lambda: (
        Job(VLN).step("look").checks.index("bow_relaxes") > Job(VLN).step("look").checks.index("hair")
        and Job(VLN).order("look", "play", "after_bow")
    ),
    "a bass bow goes in last": lambda: Job(DB).moves("pack")[-1] == "bow_on" == Job(VCL).moves("pack")[-1],
    "guitars: strings and body wiped after playing": lambda: Job(GTR).order("hands", "play", "after_wipe", "pack"),
    "the play-test has the technician's own mouthpiece": lambda: (
        all("own_mouthpiece_on" in Job(f).moves("together") for f in (SAX, CLA, TPT, TBN, "horn"))
        and all("own_mouthpiece_off" in Job(f).moves("again") for f in (SAX, CLA, TPT, TBN, "horn"))
        and not any("mouthpiece_on" in Job(f).moves("together") for f in (SAX, CLA, TPT, TBN, "horn"))
    ),
    "reeds are wetted in water, never in a mouth": lambda: (
        Job(SAX).says("together", "never wet it in the mouth") and Job("oboe").says("together", "not in the mouth")
    ),
    "the old reed goes out, never a spacer": lambda: (
        Job(SAX).has("reed_out") and Job(SAX).says("pack", "never use the last renter's reed as a spacer")
    ),
    "a synthetic reed is disinfected by its label": lambda: (
        (job := Job(SAX, materials={"reed": "synthetic_reed"})).says("reed_label", "as its own label says")
        and not job.has("reed_out")
        and not job.has("reed_new")
        and Job(SAX, materials={"reed": "synthetic_reed"}, missing=("reed",)).has("reed_new")
    ),
    "of cane is spoken only where it is cane": lambda: (
        Job(SAX, renter="same").says("reed_rinse", "in the cane")
        and Job(SAX, renter="same", materials={"reed": "synthetic_reed"}).says("reed_rinse", "on the reed")
    ),
    "the old reed stays with the same renter": lambda: not Job(SAX, renter="same").has("reed_out"),
    "the mouthpiece is packed assembled": lambda: Job(SAX).order(
        "spacer_on", "ligature_on", "screws_on", "cap_on", "mouthpiece_slot_on"
    ),
    "a ligature in its own place in the other policy": lambda: (
        "ligature_place_on" in Job(SAX, policies={"ligature_stored": "own_place"}).moves("pack")
        and "ligature_on" not in Job(SAX, policies={"ligature_stored": "own_place"}).moves("pack")
    ),
    "what closes round a mouthpiece is cleaned": lambda: all(
        Job(SAX).has(k) for k in ("cap_wash", "reed_case_wash", "ligature_wipe", "slot_wipe", "strap_wipe")
    ),
    "chin rest and shoulder rest are cleaned": lambda: (
        Job(VLN).has("skin_wipe")
        and Job(VLN).has("rest_wipe")
        and Job(VLN, policies={"violin_rest": "sponge"}).has("rest_wash")
    ),
    "the crown is wiped outside only": lambda: Job("flute").says("outside", "crown", "outside only"),
    "swab before wash and disinfectant": lambda: (
        Job(SAX).forced("mouthpiece_swab", "mouth_wash") and Job(SAX).forced("mouthpiece_swab", "disinfect")
    ),
    "hands between dirty work and clean": lambda: all(
        Job(f).forced("hands", "together" if Job(f).has("together") else "play") for f in shipped().families
    ),
    "a washed cloth is wet for hours": lambda: (
        [Job(f, dry_cloth=False).step("cloths_wash").wait.min_minutes for f in (SAX, TPT, VLN)] == [120, 240, 360]  # type: ignore[union-attr]
    ),
    "the latches are tugged, the case lifted a hand's breadth": lambda: all(
        Job(f).says("pack", "tugged", "hand's breadth") for f in shipped().families if f != "bow"
    ),
    "the lift test has the slide alone, over a soft mat": lambda: (
        Job(TBN).order("apart", "look", "slide_apart")
        and Job(TBN).order("slide_together", "lift_proof")
        and Job(TBN).forced("slide_together", "together")
        and Job(TBN).says("lift_proof", "slide alone", "soft mat")
    ),
    "a trombone is bathed, its tuning slide wiped of old grease": lambda: (
        Job(TBN).forced("bath_dry", "slide_two_part") and Job(TBN).says("tuning_wipe", "old grease")
    ),
    "the bell nut is tightened clockwise": lambda: (
        Job(TBN).says("together", "bell nut clockwise") and Job(TBN).says("apart", "bell nut counter-clockwise")
    ),
    "no slide is drawn with a valve pressed that is out": lambda: (
        Job(TPT).order("valves_off", "slide_3_off") and not Job(TPT).says("apart", "valve 3 pressed")
    ),
    "clarinet: bell to lower joint before the upper joint": lambda: Job(CLA).order("bell_on", "middle_on"),
    "joints first in the other policy": lambda: Job(CLA, policies={"clarinet_together": "joints_first"}).order(
        "middle_on", "bell_on"
    ),
    "together does not follow apart": lambda: Job(CLA, policies={"clarinet_apart": "bell_first"}).order(
        "bell_on", "middle_on", "barrel_on", "own_mouthpiece_on"
    ),
    "the third order of taking apart": lambda: Job(CLA, policies={"clarinet_apart": "bell_last"}).order(
        "mouthpiece_off", "barrel_off", "middle_off", "bell_off"
    ),
    "a whole tube is swabbed before it is taken apart": lambda: (
        Job(CLA, policies={"clarinet_pulls": "whole"}).order("whole_swab", "apart")
        and Job(CLA, policies={"clarinet_pulls": "whole"}).says(
            "whole_swab", "mouthpiece off", "never through a disinfected"
        )
    ),
    "the reason of taking apart does not stand at putting together": lambda: not Job(CLA).says("together", "meanwhile"),
    "wiping draws no swab": lambda: (
        not Job(SAX, policies={"sax_mouthpiece_pulls": "wipe"}).has("mouthpiece_swab")
        and Job(SAX, policies={"sax_mouthpiece_pulls": "wipe"}).has("mouthpiece_wipe")
    ),
    "stuffers come out again": lambda: Job(CLA, policies={"stuffers": "short"}).order("stuffers", "stuffers_out"),
    "mouthwash is no rinse, but is rinsed": lambda: (
        "mouthwash" in Job(SAX, renter="same", policies={"reed_cleaning": "mouthwash"}).step("reed_mouthwash").agents
    ),
    "dried last: nothing wipes a slide that is in": lambda: (
        Job(TPT, policies={"brass_drying": "last"}).order("bath_drain", "together", "dry_last")
        and "slides and valves are in" in Job(TPT, policies={"brass_drying": "last"}).words("dry_last")
    ),
    "blocked valves are blown through once": lambda: (
        Job(TPT, findings={"blow": "blocked"}).has("valves_right")
        and not Job(TPT, findings={"blow": "blocked"}).has("blow_through")
    ),
    "flute and piccolo mind their ears": lambda: all(Job(f).says("play", "hearing") for f in ("flute", "piccolo")),
    "a flute's head last on": lambda: Job("flute").moves("together")[-1] == "head_on",
    "liquid in a jar of 55 mm to 50 mm: 107 ml with one mouthpiece (geometry)": lambda: Job(CLA).says(
        "disinfect", "107 ml of 3 %", "with 4 in it 73 ml"
    ),
    "as much soap as is said: 2 ml to the litre (arithmetic)": lambda: all(
        dict(Job(f).step("bath").supplies)["soap_ml"] == litres * 2
        for f, litres in ((TPT, 12), ("euphonium", 40), ("tuba", 80), (TBN, 20))
    ),
    "heat and cold are looked for": lambda: all(
        any(c.key == "heat_cold" for c in f.check) for f in shipped().families.values()
    ),
    "strings are eased evenly, never all slack": lambda: Job(VLN, came="cold", findings={"heat_cold": "moved"}).says(
        "ease_moved", "evenly", "never all slack"
    ),
    "new stock is commissioned and its corks greased": lambda: (
        Job(CLA, renter="new_stock").has("commission") and Job(CLA, renter="new_stock").has("cork_grease")
    ),
    "a body swab is not drawn through a neck": lambda: Job(SAX).step("neck_swab").cloth == "slim swab",
    "a bassoon's boot has a silk": lambda: any(
        c.kind == "boot silk" and "Silk" in c.name for c in shipped().house.cloth
    ),
    "solid silver is polished, gold never": lambda: (
        bears("silver", "silver_polish").allowed
        and not bears("gold", "silver_polish").allowed
        and not bears("gold_plate", "silver_polish").allowed
    ),
    # --- transpositions and drying
    "B flat clarinet and trumpet sound a major second lower": lambda: fam(CLA).sounds == fam(TPT).sounds == -2,
    "alto a major sixth, tenor a major ninth, baritone an octave and a sixth": lambda: (
        [fam(f"{s}_saxophone").sounds for s in ("alto", "tenor", "baritone")] == [-9, -14, -21]
    ),
    "horn a fifth lower, piccolo an octave higher": lambda: fam("horn").sounds == -7 and fam("piccolo").sounds == 12,
    "no heat for drying": lambda: Job(SAX).says("body_air", "no dryer, radiator"),
}


@pytest.mark.parametrize("fact", FACTS)
def test_fact_of_the_trade(fact: str) -> None:
    assert FACTS[fact](), fact


def test_there_are_enough_facts() -> None:
    assert len(FACTS) >= 80
