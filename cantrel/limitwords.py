"""Every limit in words, felling and takedown alike: the one catalogue. The core gives key, figures and what it is
about.
"""

from typing import NamedTuple


class Said(NamedTuple):
    """Name of a limit, its sentence, and what to change.

    ``{d}`` is the demand, ``{a}`` what is allowed; the rest is what the limit is about.
    """

    name: str
    sentence: str
    change: str


WORDS = {
    "conductor": Said(
        "Overhead conductor",
        "{n}: {near} comes within {d}; {a} is to be kept.",
        "Keep off: ask the line’s owner to make it dead or shield it. The local code goes first.",
    ),
    "fit": Said(
        "Room on the ground",
        "{n} clears the fall by {d}.",
        "Turn the lay, or take the tree down in part first.",
    ),
    "fit_unknown": Said(
        "Room on the ground",
        "No target is drawn, so nothing says whether it fits.",
        "Draw what must not be hit on the Method page.",
    ),
    "escape": Said(
        "Escape paths",
        "{n} stops a path after {d}; {a} is the least.",
        "Clear the path, or turn the lay.",
    ),
    "tip": Said(
        "Tipping the tree",
        "Tipping it takes {d}, no wind helping; {a} is at hand.",
        "Add wedges, pull harder, or tie the line higher.",
    ),
    "thin": Said(
        "Hinge holding sideways",
        "The hinge is {d}; sideways it needs at least {a}, with lean, crown and a gust at their worst.",
        "Thicken the hinge, lengthen it, or take side load off.",
    ),
    "thick": Said(
        "Hinge bending",
        "The hinge is {d}; what is at hand bends up to {a}.",
        "Thin the hinge, or add pull.",
    ),
    "commit": Said(
        "Notch closing",
        "It closes at {d} past upright; the weight carries on only from {a}.",
        "Open the notch wider, or thin the hinge.",
    ),
    "parts": Said(
        "Hinge parting by itself",
        "Wood of this kind parts at {d} past upright; the weight carries on only from {a}.",
        "Thin the hinge so that less turn is needed, or pull it further over before letting go.",
    ),
    "close_school": Said(
        "Notch closing on a back leaner",
        "It closes at {d} past upright; “{n}” asks {a}.",
        "Open the notch wider, or leave that school.",
    ),
    "early": Said(
        "Notch closing above the ground",
        "It closes at {d} past upright; this school wants {a}.",
        "Open the notch wider.",
    ),
    "depth_school": Said(
        "Notch depth",
        "{d} of the stem; “{n}” ends at {a}.",
        "Change the depth, or the school.",
    ),
    "opening_school": Said(
        "Notch opening",
        "{d}; “{n}” ends at {a}.",
        "Change the opening, or the kind of notch.",
    ),
    "hinge_school": Said(
        "Hinge thickness",
        "{d}; “{n}” ends at {a}.",
        "Change the thickness, or the school.",
    ),
    "rise_school": Said(
        "Back cut",
        "{d} above the apex; “{n}” ends at {a}.",
        "Cut level within the school's range.",
    ),
    "rise_below": Said(
        "Back cut below the apex",
        "{d} from the apex: the butt can slide back over the stump.",
        "Raise the back cut to the apex or above.",
    ),
    "wedge_dead": Said(
        "Wedges in a dead tree",
        "Hammering shakes dead tops loose: never wedge a dead tree.",
        "Pull it from a distance, use a machine, or refer it.",
    ),
    "wedge_room": Said(
        "Room for wedges",
        "{d} of wood behind the hinge; a wedge needs about {a}.",
        "Make the notch shallower.",
    ),
    "wedge_lift": Said(
        "Lift of the wedges",
        "Until the weight carries on it needs {d} of lift; the wedges reach {a}.",
        "Stack wedges, or add a pull line.",
    ),
    "wedge_force": Said(
        "Force per wedge",
        "Each would carry {d}; one of this kind lifts about {a}.",
        "Add wedges or a pull line, or thin the hinge.",
    ),
    "back_slope": Said(
        "Sloping back cut",
        "It falls at {d}: {times} times the cutting, and the wedge of wood it leaves shears off along the grain.",
        "Cut level.",
    ),
    "bar": Said(
        "Guide bar",
        "The longest cut of this order needs {d} of bar; {a} is on the saw.",
        "Cut in two halves, bore, or take a longer bar.",
    ),
    "split": Said(
        "Stem splitting up",
        "As it begins to go the stem carries {d} times what splits it up from the back cut.",
        "Pull no harder than it needs until the hinge is set, bore and trigger, open the notch, thin the hinge, or "
        "choose another lay.",
    ),
    "position": Said(
        "Cutting position",
        "The cut is {d} up; “{n}” ends at {a}.",
        "Change the height of the cut, or how you stand.",
    ),
    "gust": Said(
        "Wind",
        "Gusts may reach {d}; {a} from the worst side uses up what is left over.",
        "Wait for less wind, add pull or a guy line, or lengthen the hinge.",
    ),
    "wind_unknown": Said(
        "Wind",
        "Nobody gave the wind. A gust of {a} from the worst side uses up what is left over.",
        "Give the mean wind at crown height; 0 in a calm.",
    ),
    "early_move": Said(
        "Moving before it is cut",
        "Gusts with the lay push with {d}; balance and hinge hold it back with {a} until the cut is done.",
        "Bore and trigger with a strap at the back, or wait for less wind.",
    ),
    "line_slack": Said(
        "Pull line going slack",
        "Gusts with the lay push with {d}, the line with {a}: it may hang slack and then snatch.",
        "Keep it taken up as the tree moves; do not steer by it.",
    ),
    "gear": Said(
        "Gear on the line",
        "{n} carries {d}; its weakest piece may carry {a}.",
        "Take stronger gear, or pull less.",
    ),
    "chance": Said(
        "Chance of touching",
        "{n} is touched {d} of the times, hinge, aim, wind and sizes scattered; {a} is the most.",
        "Turn the lay, thicken the hinge, or take the top out first.",
    ),
    "root_plate": Said(
        "Root plate",
        "It is turned with {d}; plates of this size are known to go over from {a}.",
        "Pull less or lower, take the top out, bring the rope down the stem, or refer it.",
    ),
    "shear": Said(
        "Hinge sheared by the pull",
        "The pull shears it with {d}; this wood takes {a}.",
        "Pull softly until the hinge is set, or leave more hinge.",
    ),
    "leans": Said(
        "Leans that disagree",
        "The stem leans one way and the plumbed crown hangs the other; which side the weight is on is a small "
        "difference of the two.",
        "Plumb both again from two sides before the lay is chosen.",
    ),
    "bypass": Said(
        "Cut past the apex",
        "On the {n} the kerf closes at {d} past upright; the weight carries on only from {a}.",
        "Clean the apex: end both cuts on one line.",
    ),
    "bypass_lean": Said(
        "Cut past the apex on the lean side",
        "On the {n} the kerf closes at {d} and the hinge is thinner where it is pressed; it turns the tree or tears "
        "the other end.",
        "Clean the apex, deepen the notch to sound wood, or change the lay.",
    ),
    "escape_side": Said(
        "Escape on the lean side",
        "The {n} path lies where the weight leans: butt and limbs come that way first.",
        "Take the other path, or clear it first.",
    ),
    "escape_time": Said(
        "Off the butt in time",
        "Whoever leaves at the first movement is {low} to {high} off when the hinge parts; the butt may come {a} back.",
        "Leave at the first movement along a cleared path; bore and trigger, or pull, so that nobody need stay at it.",
    ),
    "wedge_hollow": Said(
        "Wedges in a hollow stem",
        "The wall at the back is {d}; a wedge needs {a} of sound wood.",
        "Pull it, or cut higher in sound wood.",
    ),
    "wedge_start": Said(
        "Wedge too thick to start",
        "Its tip is {d}; the kerf is {a}.",
        "Take a wedge with a thinner tip.",
    ),
    "guy_wanted": Said(
        "Side load on a hinge that snaps early",
        "The side moment takes {d} of what the hinge holds; from {a} this wood wants a guy line.",
        "Add a guy line, take the load off that side, or change the lay.",
    ),
    "guy_side": Said(
        "Guy line on the wrong side",
        "It pulls the way the tree already leans: it carries nothing.",
        "Move its anchor to the other side of the lay.",
    ),
    "guy_force": Said(
        "Tension in the guy line",
        "It would carry {d}; {a} is its limit.",
        "Tie it higher, stand the anchor further off, or take a stronger line.",
    ),
    "guy_out": Said(
        "Guy line tightens in the fall",
        "Its way grows by {d} by {turn} of turn: it stops or turns the tree unless it is let out.",
        "Put the anchor on the hinge's own line, or have someone let it out on the word.",
    ),
    "guy_slack": Said(
        "Guy line slackens in the fall",
        "Its way shortens by {d}: it no longer holds the side when it should.",
        "Put the anchor on the hinge's own line, in plan and height.",
    ),
    "line_fouls": Said(
        "Line over an obstacle",
        "The {n} passes {d} up over {other}, where it needs {a}.",
        "Tie higher, move the anchor, or lead the line round it.",
    ),
    "anchor_in_fall": Said(
        "Anchor inside the fall",
        "{n} stands on ground the tree may cover.",
        "Move it out of the fall, or turn the line round an anchor to one side.",
    ),
    "rope_short": Said(
        "Rope length",
        "“{n}” needs {d} for its whole way and its knots; {a} is there.",
        "A longer rope, one joined with a known bend where nothing stops the join, or a nearer or lower point.",
    ),
    "rope_strength": Said(
        "Rope under load",
        "{n} carries {d}; {a} is its working load.",
        "Take a stronger rope, a higher purchase nearer the anchor, or pull less.",
    ),
    "anchor": Said(
        "Anchor",
        "{n} carries {d}; {a} is what it may.",
        "Choose a stouter anchor, sling it lower, or share the load between two.",
    ),
    "people_place": Said(
        "Where people stand",
        "{n} stands wrong.",
        "Move them, or redirect the line.",
    ),
    "tie_past": Said(
        "Tied past the balance",
        "Tied {d} out; it may balance from {a}: the butt drops and the tips rise to the climber.",
        "Tie nearer the butt; or lift first, a little, and look which end goes down; or use a tip tie and keep clear.",
    ),
    "tie_high": Said(
        "Tie near the balance",
        "Tied {d} up a piece that balances at {a}: it may turn over its own tie.",
        "Tie lower on the piece.",
    ),
    "point_below": Said(
        "Rigging point below the cut",
        "It hangs {d} up, under the cut at {a}.",
        "Take it negative, or hang the block higher.",
    ),
    "anchor_bends": Said(
        "Anchor stem bending",
        "{w}: it is stressed {d}; {a} is a third of what it stands there.",
        "Shorten the piece, let it run, hang the block lower, or bring the rope down the stem.",
    ),
    "anchor_other": Said(
        "Anchor in another tree",
        "It carries {d}; nobody said what it stands.",
        "Look at it, measure it, and judge it as a tree of its own.",
    ),
    "gear_refused": Said(
        "Gear that may not be used",
        "{cause}.",
        "Choose another item.",
    ),
    "chain": Said(
        "Weakest part of the chain",
        "The {role} {item} carries {d}; {a} is its working load.",
        "Stronger gear, a shorter piece, less slack, or let it run.",
    ),
    "leg_slips": Said(
        "Bridle leg that will not grip",
        "“{n}” is {d} thick on a main line of {a}: a hitch slips.",
        "A leg line two sizes thinner than the main line.",
    ),
    "bent_sharply": Said(
        "Rope bent sharply",
        "{pair} bends it {d} times its own thickness; {a} is the least.",
        "A larger sheave, ring or drum, or a thinner rope.",
    ),
    "connector_drop": Said(
        "Connector that could be loaded across",
        "“{n}” in a fall of {d}.",
        "A shackle or a sling; connectors only where they can't turn.",
    ),
    "hand": Said(
        "Hand at the device",
        "{d} is needed at the hand; {a} is held at ease.",
        "Add a wrap, shorten the piece, or let it run.",
    ),
    "stops_dead": Said(
        "Too many wraps to run",
        "It is meant to run, but {d} turns hold it fast; up to {a} turns let it run.",
        "Take wraps off until it runs, or plan it held.",
    ),
    "locked_fall": Said(
        "Locked off with a long fall",
        "The balance falls {d} onto a rope that does not run.",
        "Take the slack out, or let it run.",
    ),
    "fork_caught": Said(
        "Natural fork taken as a block",
        "The fork keeps back part of the pull ({d} of it goes on): the piece falls onto a short, stiff length of rope.",
        "Hang a block, or lower without slack.",
    ),
    "clears": Said(
        "Clearance",
        "{n} is passed by {d}; {a} is the least.",
        "Move the rigging point, tie it otherwise, shorten it, or hold it off with a tag line.",
    ),
    "ground": Said(
        "Reaches the ground",
        "Held at this length its lower end would come {below} below the ground.",
        "Less slack, a higher point, or a shorter piece.",
    ),
    "touches": Said(
        "Comes down on what lies there",
        "Its lower end meets the ground at {n} with up to {d}; a hand sets it down at {a}.",
        "Less slack or run, more wraps, a higher point, or clear the place.",
    ),
    "tie_in_gone": Said(
        "Tie-in that is not there",
        "The {n} the climber is tied in to goes with this piece, or is gone.",
        "Tie in below, or in another tree.",
    ),
    "stance_gone": Said(
        "Stance that is not there",
        "The {n} the climber stands on goes with this piece, or is gone.",
        "Stand on what stays.",
    ),
    "tie_in_thin": Said(
        "Tie-in wood",
        "It is {d} thick; {a} is the least.",
        "Tie in lower, in thicker wood.",
    ),
    "line_short": Said(
        "Climbing line",
        "It takes {d} to reach the ground; {a} is on it.",
        "A longer line, or a lower tie-in.",
    ),
    "line_at_cut": Said(
        "Climber's line near the cut",
        "Their own line passes {d} from the cut; {a} is the least.",
        "Stand on the other side, or move the tie-in.",
    ),
    "reach": Said(
        "Reach to the cut",
        "The cut is {d} from the stance; {a} is an arm and a saw.",
        "Move nearer.",
    ),
    "piece_at_climber": Said(
        "Piece comes at the climber",
        "It passes {d} from the stance; {a} is the least.",
        "Stand on the other side, tie it otherwise, or move the rigging point.",
    ),
    "drops_on": Said(
        "What lies under it",
        "{n} lies {d} from where it may come to.",
        "Rig it, toss it by hand in small pieces, or clear the ground.",
    ),
    "second_tie": Said(
        "Second tie",
        "This way of taking it needs a second tie; nobody said where.",
        "Say where the second line or leg is tied.",
    ),
    "toss_heavy": Said(
        "Too heavy to toss",
        "It weighs {d}; {a} is held in one hand at ease.",
        "Lower it, or cut it shorter.",
    ),
    "anchor_union": Said(
        "Union that carries the rope",
        "{w}: what it still stands is not known.",
        "Hang the block below it, on other wood or in another tree.",
    ),
    "far_unknown": Said(
        "Second high point",
        "This way of taking it needs one; nobody said where it is.",
        "Say on what and how high.",
    ),
    "joined": Said(
        "Joined rope",
        "“{n}” is made of two: the join meets block, fork or device.",
        "A rope in one piece.",
    ),
    "leg_short": Said(
        "Bridle leg length",
        "“{n}” has to reach {d} with its knots; {a} is there.",
        "A longer leg line, or a lower head.",
    ),
    "lifted_early": Said(
        "Tight before the cut",
        "{d} is in the line; {a} lifts the piece off its hinge.",
        "Less pull: the hinge must still hold it down.",
    ),
    "hook": Said(
        "What the machine lifts",
        "About {d} comes to the hook with a jerk; it may lift {a} there.",
        "Shorter pieces, or a hook nearer the machine.",
    ),
    "runs_away": Said(
        "Rope runs on",
        "The device slides and does not stop it: {d} of rope runs out, and it hangs {a} up.",
        "More wraps, another setting, a line held softly, or a smaller piece.",
    ),
    "anchor_twists": Said(
        "Turning of the wood that carries the rope",
        "{w}: turned about its own axis it sees {d}; {a} is a third of what it stands.",
        "A point nearer over the work, or a block hung on the side of the pull.",
    ),
    "top_large": Said(
        "Large top",
        "It is {d} of the stem; how a stem springs that loses more than {a} is not known.",
        "A smaller top.",
    ),
    "tag_steep": Said(
        "Tag line too steep",
        "Tag line and main rope stand {d} off together; from {a} it pulls down rather than off.",
        "Stand further off with the tag line, put it down nearer, or let it down first.",
    ),
    "way_unknown": Said(
        "Which way it goes",
        "It stands upright and nobody said which way its notch faces.",
        "Say where the notch faces, or drag its handle from above.",
    ),
    "meets_stem": Said(
        "Comes against the stem",
        "It comes against {n} at {d}; from {a} that is a hard blow.",
        "Let it run, tie it nearer its balance, or hang the point further out; nobody on that side.",
    ),
    "rope_through": Said(
        "Rope through wood",
        "The rope to the piece runs through {n}.",
        "Move the tie or the rigging point, or take that away first.",
    ),
    "catches": Said(
        "Standing wood in its way",
        "It passes {n} at {d} as it {moment}; {a} is the least.",
        "Take that limb first, tie it otherwise, or move the rigging point.",
    ),
    "put_on": Said(
        "Where it is put down",
        "{n} is {d} from where it comes to lie.",
        "Say where it is put down, and bring it there by a tag line.",
    ),
    "tag": Said(
        "Tag line",
        "{d} at least has to be held beside it, more while it is high; {a} is held at ease.",
        "Put it down nearer, more people or a turn round a tree, or another rigging point.",
    ),
    "tie_in_other": Said(
        "Tie-in in another tree",
        "Nobody here has judged {n}.",
        "Look at it from the ground, test it, and judge it as a tree of its own.",
    ),
    "tie_in_bends": Said(
        "Tie-in bending",
        "{w}: a slip stresses it {d}; {a} is a third of what it stands there.",
        "Tie in nearer the stem, in thicker wood, or nearer over the work.",
    ),
    "tie_in_weak": Said(
        "Tie-in wood",
        "{cause}.",
        "Tie in to living wood with a sound union.",
    ),
    "one_attachment": Said(
        "One attachment",
        "No lanyard and no second tie-in while the saw runs.",
        "Two attachments whenever the saw runs.",
    ),
    "above_tie_in": Said(
        "Above the tie-in",
        "The stance is level with the tie-in or above it: a slip is a fall.",
        "Tie in higher, or stand lower.",
    ),
    "slip": Said(
        "A slipping foot",
        "It swings the climber against {n} at {d}; {a} is called hard.",
        "Stand nearer under the tie-in, tie in over the work, or use a second tie-in.",
    ),
    "piece_at_line": Said(
        "Piece comes at the climber’s line",
        "It passes {d} from their own line; {a} is the least.",
        "Stand on the other side, or move the tie-in or the rigging point.",
    ),
    "rope_at_climber": Said(
        "Rope sweeps the climber",
        "The loaded rope passes {d} from the stance; {a} is the least.",
        "Stand on the other side of the rope.",
    ),
    "rolls": Said(
        "Log that runs down the slope",
        "The ground falls at {d}; from about {a} a bare log rolls or slides, and {n} lies below.",
        "A bed of brush, stakes or a line on it, cut it shorter, or put it down across a stop.",
    ),
    "bed_small": Said(
        "Bed smaller than the fall",
        "It may come to {d} from under its balance; the bed of {n} reaches {a}.",
        "A wider bed, or smaller pieces.",
    ),
    "fork_thin": Said(
        "Fork for the line",
        "It is {d} thick; {a} is the least.",
        "A lower fork, in thicker wood.",
    ),
    "fork_weak": Said(
        "Fork for the line",
        "It is dead, or its union is not sound.",
        "Another fork.",
    ),
    "access_line": Said(
        "Climbing line",
        "It takes {d} to come down again; {a} is on it.",
        "A longer line, or a lower fork.",
    ),
    "not_isolated": Said(
        "Branches under the line",
        "Nobody said that one branch alone is under it.",
        "Shift the line until it lies over one branch.",
    ),
    "not_tested": Said(
        "Test of the fork",
        "Nobody said that it was tested.",
        "Two people’s weight on the line, before anyone leaves the ground.",
    ),
    "work_seen": Said(
        "No work under this finding",
        "The walk-up found: {seen}.",
        "Wait, or refer it; look again and answer it as absent once it is gone.",
    ),
    "held_seen": Said(
        "What holds what is not known",
        "The walk-up found: {seen}. Which force lets go at a cut is not worked out here.",
        "Refer it to somebody with a machine, or wait; take the hold off first, and look again.",
    ),
    "dead_last": Said(
        "Dead wood still up",
        "{n} is dead and still stands while live wood is cut by somebody in the tree.",
        "Take dead wood off first.",
    ),
    "unanswered": Said(
        "Finding without an answer",
        "The walk-up found: {seen}. Nobody said what is done about it.",
        "Say at the walk-up what is done about it.",
    ),
    "not_measured": Said(
        "Seen but not measured",
        "The walk-up found: {seen}. The tree’s body holds none of it, so nothing here counts it.",
        "Enter it on the tree’s body: its place, its size, its state; or look again.",
    ),
    "felled_seen": Said(
        "Not felled as it stands",
        "The walk-up found: {seen}.",
        "Free it or secure it first and look again, or take another way.",
    ),
    "wedge_seen": Said(
        "Wedges under dead wood",
        "The walk-up found: {seen}. Hammering shakes it loose over the person who hammers.",
        "No wedges: pull it from a distance, or use a machine.",
    ),
    "zone_seen": Said(
        "Work zone too small for this finding",
        "The walk-up found: {seen}. The zone is {d} round; {a} is asked.",
        "Choose the wider zone.",
    ),
    "climb_seen": Said(
        "Nobody climbs this tree",
        "{seen}.",
        "A lift, a crane, or a pull from a distance.",
    ),
    "tie_seen": Said(
        "No tie-in in this tree",
        "{seen}.",
        "Tie in elsewhere: another tree, or a lift.",
    ),
    "point_seen": Said(
        "Nothing rigged from this tree",
        "{seen}.",
        "Rig from another tree, or use a machine.",
    ),
    "climber_unsaid": Said(
        "Where the climber is",
        "Nobody said where the climber stands and is tied in for this cut, {d} up.",
        "Give stance and tie-in, or say that it is cut from a lift.",
    ),
    "stance_weak": Said(
        "Wood the climber stands on",
        "{cause}.",
        "Stand on sound wood, work from a lift, or from another tree.",
    ),
    "lanyard_at_cut": Said(
        "Lanyard at the cut",
        "Stance and lanyard are {d} from the cut; {a} is the least.",
        "Stand lower, with the lanyard below the cut and clear of it.",
    ),
    "kerf_closes": Said(
        "Cut that closes on the saw",
        "Its weight turns it back over the cut with {d}; a hand or the line turns it forward with {a}.",
        "Make the line tight first, face the notch the way it leans, or cut it otherwise.",
    ),
    "push_hard": Said(
        "Hinge too stiff to push over",
        "Its hinge bends at {d}; {a} is what a hand or the line turns forward.",
        "Cut the hinge thinner, pull from higher up, or make a line tight forward.",
    ),
    "reversed_closes": Said(
        "Notch closes before it lies flat",
        "It has to turn {d} to lie flat; the notch closes at {a} and it goes butt first.",
        "Open the notch wider, or take it with another cut.",
    ),
    "step_holds": Said(
        "Step cut that lets go early",
        "The piece pulls with {d} at the cut; the wood between the two cuts holds {a}, as little as it may.",
        "Overlap the cuts further, take its weight with a tight line, or cut a shorter piece.",
    ),
    "step_snaps": Said(
        "Step cut that does not snap",
        "Snapping it off takes {d}; {a} is what a hand or the line gives.",
        "Overlap the cuts less, or pull with a line from further out.",
    ),
    "top_splits": Said(
        "Plain top cut away from the collar",
        "It is cut {d} from its collar; beyond {a} the wood splits down towards the climber as it drops.",
        "Cut at the collar, or cut from below first, or with a notch.",
    ),
    "steered_slack": Said(
        "Steered by the hinge alone",
        "It is turned {d} from where it would go while its line hangs slack; {a} is the most.",
        "Take the slack out, use a tag line, or face the notch where it goes by itself.",
    ),
    "under_piece": Said(
        "People under the piece",
        "{n} is {d} from where it moves, seen from above; {a} is the least.",
        "Move them, close the path, or take the piece another way.",
    ),
    "recoil": Said(
        "In line with a tight rope",
        "{n} is {d} from the line of “{other}” and its ends; {a} is the least.",
        "Stand to one side, beyond the rope’s reach; keep others out of its line.",
    ),
    "outside_drop": Said(
        "Outside the drop zone",
        "It may come to {d} beyond “{n}”.",
        "Smaller pieces, a larger zone, or a rope on it.",
    ),
    "outside_landing": Said(
        "Outside the landing zone",
        "Laid down it reaches {d} beyond “{n}”.",
        "Put it down inside, cut it shorter, or draw the landing larger.",
    ),
    "way_out": Said(
        "Way out to the chipper",
        "The piece is {d} long; the tightest place of “{n}” takes {a}.",
        "Cut it up where it lands, or cut it shorter.",
    ),
    "machine_lift": Said(
        "Lifted by a machine",
        "It weighs {d}; {a} is what the machine lifts there.",
        "Cut a shorter piece, or bring the machine nearer.",
    ),
    "throat": Said(
        "Chipper’s throat",
        "It is {d} thick; the chipper takes {a}.",
        "Split it, carry it, or cut it up where it lands.",
    ),
    "lift_heavy": Said(
        "Lifted by hand",
        "Each of the {count} who handle it lifts {d}; {a} is the most.",
        "More hands, a machine, or cut it up where it lands.",
    ),
    "rope_rubs": Said(
        "Rope against a target",
        "The {item} passes {d} from {other}; {a} is the least.",
        "Lead the rope round it, or move the point, the device or the far end.",
    ),
    "hung_up": Said(
        "Hang-up",
        "It may come down into {n}: a tree that hangs is the worst of jobs.",
        "Turn the lay, take its top out first, or take that tree first.",
    ),
    "hinge_decay": Said(
        "Hinge in unsound wood",
        "At the height of the cut {d} of the hinge’s wood is {cause}; {a} is the most.",
        "Cut higher or lower in sound wood, another lay, or take it down from a machine.",
    ),
    "tie_breaks": Said(
        "Pull line on thin wood",
        "At {where} the pull bends the stem with {d}; {a} is a third of what it stands.",
        "Tie lower, in thicker wood, or pull less.",
    ),
    "puller_unsaid": Said(
        "Who or what pulls",
        "{n}: nobody said what pulls it.",
        "Say what pulls: people, a winch, a vehicle.",
    ),
    "join_stopped": Said(
        "Joined rope",
        "“{n}” is joined and its join must run through “{other}”, which stops it.",
        "A rope in one piece, or put the join where it passes nothing.",
    ),
    "deep_back": Said(
        "Deep notch on a back leaner",
        "The notch takes {d} of the stem while it leans back; beyond {a} it costs wedge lever ({share} of it) and "
        "hinge, and gains nothing.",
        "A shallower notch.",
    ),
    "escape_slope": Said(
        "Escape path on a slope",
        "The {n} path runs {d}; {a} is the most.",
        "Choose the path that runs level or a little uphill; the butt and the log come downhill.",
    ),
    "people_near": Said(
        "People within the tree’s height",
        "{n} is {d} from the stump; the tree is {a} high.",
        "Empty it and post someone; answer the walk-up’s line about people.",
    ),
    "wall": Said(
        "Wall of the stem",
        "At {where} the {cause} leaves a wall of {d} of the radius; below {a} it is called weak.",
        "Nobody climbs or rigs on it; another tree for tie-in, or a lift.",
    ),
    "union": Said(
        "Union that is not sound",
        "{cause}. It may fail under load; nothing here knows its strength.",
        "Keep climber, lines and rigging off it.",
    ),
    "tie_tears": Said(
        "Wood torn out by the pull line",
        "The line shears the stem with {d}, {where}; {a} is a third of what it stands.",
        "Tie lower, in thicker wood, or pull less.",
    ),
    "pullers": Said(
        "People on the rope",
        "It is to be pulled with {d}; the {count} on it give {a}.",
        "More people, a purchase or a winch.",
    ),
}
# Where one case reads otherwise: by key and by cause, or by what is not known or reached.
CASES = {
    "catches/assumed": Said(
        "Limb nobody has seen in its way",
        "It passes {d} from {n} as it {moment}; that limb is assumed.",
        "Look whether it is there: measure it, or take it off the tree.",
    ),
    "rope_through/assumed": Said(
        "Rope through a limb nobody has seen",
        "The rope to the piece runs through {n}, which is assumed.",
        "Look whether it is there: measure it, or take it off the tree.",
    ),
    "ground/rope": Said(
        "Rope through the ground",
        "The {n} would run {d} against the ground.",
        "Move the device or the far end, or lift it off the slope.",
    ),
    "machine_lift/unknown": Said(
        "Lifted by a machine",
        "Nobody said what the machine lifts there; it weighs {d}.",
        "Say what it lifts at that reach.",
    ),
    "throat/unknown": Said(
        "Chipper’s throat",
        "Nobody said what the chipper takes; it is {d} thick.",
        "Say its throat.",
    ),
    "thin/shut": Said(
        "Hinge window is shut",
        "The least that holds ({a}) is more than what still bends.",
        "Add a guy line or more pull, or change lay or method.",
    ),
    "thick/shut": Said(
        "Hinge window is shut",
        "The hinge is {d}; only up to {a} bends, less than what must hold.",
        "Add a guy line or more pull, or change lay or method.",
    ),
    "tip/no_wedges": Said(
        "Tipping the tree",
        "Tipping it takes {d}, no wind helping; {a} is at hand.",
        "Pull harder, or tie the line higher; no wedges in this tree: hammering shakes dead wood loose.",
    ),
    "thick/no_wedges": Said(
        "Hinge bending",
        "The hinge is {d}; what is at hand bends up to {a}.",
        "Thin the hinge, or add pull; no wedges in this tree.",
    ),
    "hand/held": Said(
        "Hand at the device",
        "{d} is needed at the hand; {a} is held at ease.",
        "A smaller piece, or a device that lets it run: these wraps hold it already.",
    ),
    "people_place/fall": Said(
        "Where people stand",
        "{n} stands where the tree comes down.",
        "Move them, or redirect the line.",
    ),
    "people_place/bight": Said(
        "Where people stand",
        "{n} stands in the bight of “{other}”.",
        "Move them, or redirect the line.",
    ),
    "people_place/recoil": Said(
        "Where people stand",
        "{n} stands in the line of recoil of “{other}”.",
        "Move them, or redirect the line.",
    ),
    "people_place/in_line": Said(
        "Where people stand",
        "{n} hauls in line with the tight rope; a redirect would take them out of it.",
        "Move them, or redirect the line.",
    ),
    "bar/unknown": Said(
        "Guide bar",
        "The longest cut of this order needs {d} of bar; nobody said what is on the saw.",
        "Cut in two halves, bore, or take a longer bar.",
    ),
    "rope_strength/unknown": Said(
        "Rope under load",
        "{n} carries {d}; nobody said what it breaks at.",
        "Take a stronger rope, a higher purchase nearer the anchor, or pull less.",
    ),
    "anchor/unknown": Said(
        "Anchor",
        "{n} carries {d}; nobody said what it may.",
        "Choose a stouter anchor, sling it lower, or share the load between two.",
    ),
    "chain/unknown": Said(
        "Weakest part of the chain",
        "The {role} {item} carries {d}; what it may is not known.",
        "Stronger gear, a shorter piece, less slack, or let it run.",
    ),
    "bent_sharply/unknown": Said(
        "Rope bent sharply",
        "{pair}: nobody said how thick the one and how large the other is.",
        "A larger sheave, ring or drum, or a thinner rope.",
    ),
    "hook/unknown": Said(
        "What the machine lifts",
        "{d} may come to the hook; nobody said what the machine lifts there.",
        "Shorter pieces, or a hook nearer the machine.",
    ),
    "rope_short/unknown": Said(
        "Rope length",
        "“{n}” needs {d} for its whole way and its knots; nobody said how long it is.",
        "Say how long it is.",
    ),
    "root_plate/unknown": Said(
        "Root plate",
        "{d} comes to the roots of {n}; how tall and thick it is, is not known.",
        "Measure that tree.",
    ),
    "fit/reached": Said(
        "Room on the ground",
        "{n} is within reach of the fall, scatter and upper length counted.",
        "Turn the lay, or take the tree down in part first.",
    ),
    "clears/reached": Said(
        "Clearance",
        "{n} is in the way of it.",
        "Move the rigging point, tie it otherwise, shorten it, or hold it off with a tag line.",
    ),
    "drops_on/reached": Said(
        "What lies under it",
        "{n} lies where it may come to.",
        "Rig it, toss it by hand in small pieces, or clear the ground.",
    ),
    "put_on/reached": Said(
        "Where it is put down",
        "{n} is where it comes to lie.",
        "Say where it is put down, and bring it there by a tag line.",
    ),
    "escape/nothing": Said(
        "Escape paths",
        "Both run clear for {d} or more; {a} is the least.",
        "Clear the path, or turn the lay.",
    ),
    "chain/nothing": Said(
        "Weakest part of the chain",
        "Nothing is chosen as {role}; it carries {d}.",
        "Choose one from the gear.",
    ),
    "slip/nothing": Said(
        "A slipping foot",
        "It swings the climber at {d}; {a} is called hard.",
        "Stand nearer under the tie-in, tie in over the work, or use a second tie-in.",
    ),
    "tie_in_other/nothing": Said(
        "Tie-in in another tree",
        "Nobody here has judged it.",
        "Look at it from the ground, test it, and judge it as a tree of its own.",
    ),
    "conductor/undrawn": Said(
        "Overhead conductor",
        "The walk-up saw one and none is drawn: how near anything comes is not known.",
        "Draw it on the site with both ends and its voltage; an unknown voltage is given as unknown.",
    ),
    "kerf_closes/unknown": Said(
        "Cut that closes on the saw",
        "It may lean {d} back over the cut.",
        "Say which way the notch faces.",
    ),
    "escape_slope/downhill": Said(
        "Escape path runs downhill",
        "The {n} path falls by {d}; {a} is the most: butt and log come that way.",
        "Another lay, or a path across the slope.",
    ),
    "tie_breaks/fork": Said(
        "Pull line above the fork",
        "It is tied {where}, above the fork: what that lead and its union stand is not known.",
        "Tie below the fork, or take the leads off first.",
    ),
    "rolls/clear": Said(
        "Log that runs down the slope",
        "The ground falls at {d}; from about {a} a bare log rolls or slides.",
        "A bed of brush, stakes or a line on it, and nobody below.",
    ),
    "touches/bare": Said(
        "Comes to the ground",
        "Its lower end meets the ground with up to {d} before the piece hangs; a hand sets it down at {a}.",
        "Less slack or run, more wraps, a higher point, or a bed of brush there.",
    ),
    "meets_stem/carries": Said(
        "Blow at the wood that carries the climber",
        "It comes against {n}, which carries the climber, at {d}; from {a} that is a hard blow.",
        "Let it run, tie it nearer its balance, hang the point further out, or stand and tie in elsewhere.",
    ),
    "runs_away/no_room": Said(
        "Room to let it run",
        "Up to {high} runs before it stops; it hangs {a} up.",
        "More wraps, another setting, a line held softly, a higher point, or a smaller piece.",
    ),
}
