package clean

// House amounts (handbook: fluids, how much; lubricate, application).
const (
	jarML     = 250.0
	trayML    = 500.0
	bathML    = 60.0
	bucketML  = 50.0 // shampoo to 10 L where the label is silent
	oilDropML = 0.04
	streamBy  = 1.6 // a stream takes that many times as much as drops
	sprayBy   = 2.0 // a guess on the high side: a spray wets more than it need
	waxDropML = 0.05
	waxTakeG  = 7.0
	acidG     = 50.0 // to a litre, which covers a chain in its jar four times over
	sodaG     = 20.0
)

// Bounds of waits that the handbook fixes.
const (
	alloyMost Minutes = 120  // soak of alloy parts
	soakMost  Minutes = 1440 // only where the product's card allows it
	acidMost  Minutes = 720
	bareMost  Minutes = 60 // from dry to lubricated: bare steel flash-rusts
)

// catalogue is every step there is (handbook: clean, step catalogue), in one order in which the work can
// be done: what waits longest is begun early.
var catalogue = []Step{
	// Intake
	{Code: "floor", Phase: Intake, Title: "Protect the floor", Station: AtStand, Minutes: 1, When: "!express",
		Do: "Cover the floor under the stand, or wet the concrete.", Why: "Dirt and oil soak into dry concrete; off wet concrete they come up.", Done: "Floor is ready"},
	{Code: "motor-off", Phase: Intake, Title: "Motor off", Station: AtStand, Minutes: 1, When: "motor", Cautions: []Caution{Electric}, Gate: true,
		Do: "Power off, battery handled as its maker says, before the bike is lifted or wet.", Why: "A motor that starts takes fingers with it, and water and current do not go together.", Done: "Power is off"},
	{Code: "clamp", Phase: Intake, Title: "Into the stand", Station: AtStand, Minutes: 2, Tools: []string{"soft cloth"}, After: []string{"floor", "motor-off"}, Cautions: []Caution{Electric, Lifting},
		Do: "Clamp the seatpost, its tube and the jaws wiped. Never a carbon or thin tube.", Why: "Grit in the jaws scratches, and a thin tube is crushed.", Done: "Bike is firm",
		Or: []Variant{{When: "heavy", Do: "Two people or a lift, and a stand rated for the weight. Clamp the seatpost, its tube and the jaws wiped."}}},
	{Code: "look-teeth", Phase: Intake, Title: "Check teeth and jockey wheels", Station: AtStand, Minutes: 2, After: []string{"clamp"},
		Do: "Cassette and chainrings: hooked, shark-fin or thinned teeth are worn; shift teeth are short and shaped on purpose. Jockey wheels are square-topped when new and come to a point.", Why: "What is worn is agreed with the customer before the work, not after.", Done: "Teeth are checked",
		Or: []Variant{{When: "!derailleur", Title: "Check the teeth", Do: "Chainring and sprocket: hooked, shark-fin or thinned teeth are worn."}}},
	{Code: "photograph", Phase: Intake, Title: "Photograph the drivetrain", Station: AtStand, Minutes: 1, After: []string{"clamp"}, When: "takes-apart !express",
		Do: "One picture of the whole, one of the chain's path past the jockey wheels, one of the order of the spacers.", Why: "For putting it together again, and for the customer.", Done: "Pictures are taken",
		Or: []Variant{{When: "!derailleur", Do: "One picture of the whole, one of the order of washers and spacers at the wheel."}}},
	{Code: "read-wear", Phase: Intake, Title: "Measure chain wear", Station: AtStand, Minutes: 2, Tools: []string{"wear tool"}, After: []string{"clamp"}, When: "!read",
		Do: "Read the chain at three places, before any cleaning.", Why: "Cleaning a chain that has to be replaced is wasted work.", Done: "Wear is measured"},
	{Code: "agree", Phase: Intake, Title: "Agree work and price", Station: AtStand, Minutes: 2, After: []string{"read-wear", "look-teeth"}, When: "!express",
		Do: "Say what was found, what is planned, what it costs and when it is ready.", Why: "Nobody likes a bill that they did not expect.", Done: "Customer agrees"},
	{Code: "pre-rinse", Phase: Intake, Title: "Rinse loose grit off", Station: AtStand, Minutes: 3, After: []string{"clamp", "agree"}, When: "mud", Tools: []string{"hose or watering can"},
		Do: "Gentle water from the top down, bike upright, nothing pressed or rubbed.", Why: "Grit under a brush scratches, and falls into whatever you open.", Done: "Loose grit is off"},
	{Code: "cover-brakes", Phase: Degrease, Title: "Protect the brakes", Station: AtStand, Minutes: 1, After: []string{"clamp", "pre-rinse"}, When: "disc | rim", Cautions: []Caution{Braking}, Tools: []string{"brake covers"},
		Do: "Cover rotors and pads, or take the wheel out. With a wheel out: spacer between the pads, lever not squeezed.", Why: "A trace of degreaser or oil on rotor, pad or rim ruins the braking.", Done: "Brakes are protected",
		Or: []Variant{{When: "rim", Do: "Keep cleaner and oil off rims and pads: cover the rim where it passes the chain, apply with brush and rag."},
			{When: "leaves", Phase: ChainOff}}},

	// Chain off
	{Code: "link-ready", Phase: ChainOff, Title: "Joining link in the tray", Station: AtStand, Minutes: 1, After: []string{"agree"}, When: "opens",
		Do: "Is there a joining link to close it again, of the chain's width? Put it in the job's tray.", Why: "A chain that cannot be closed keeps the bike in the stand.", Done: "Link is in the tray"},
	{Code: "clutch-off", Phase: ChainOff, Title: "Clutch off", Station: AtStand, Minutes: 1, After: []string{"clamp"}, When: "leaves clutch | wheel-out clutch",
		Do: "Switch the rear derailleur's clutch off.", Why: "A sprung cage snaps at your fingers when the chain opens.", Done: "Clutch is off"},
	{Code: "open-chain", Phase: ChainOff, Title: "Open the chain", Station: AtStand, Minutes: 3, After: []string{"link-ready", "clutch-off", "cover-brakes", "agree"}, When: "opens", Cautions: []Caution{Gloves},
		Tools: []string{"chain hook", "link pliers"}, Uses: []Use{{GlovePair, 1, Once}},
		Do: "Smallest chainring and sprocket, chain hook on, open the joining link, pull the chain out. Both halves of the link into the tray; the opening is counted.", Why: "Halves of two links must not be mixed, and a link opens only so many times.", Done: "Chain is off",
		Or: []Variant{{When: "!derailleur", Do: "Chain slackened, open the joining link, pull the chain out. Both halves of the link into the tray; the opening is counted."}}},
	{Code: "hot-water", Phase: ChainOff, Title: "Wax off in hot water", Station: InTub, Minutes: 6, After: []string{"open-chain"}, When: "rewax | wax-off", Cautions: []Caution{Scald, Gloves, Waste}, Tools: []string{"kettle", "basin"}, Uses: []Use{{Rags, 1, Once}},
		Do: "Wipe it, lay it in a basin, pour near-boiling water low over it and swirl; pour off, two or three times. Let the water cool and lift the wax off as solid waste: neither goes down a drain.", Why: "The old wax floats off with its dirt; degreaser does not lift it.", Done: "No more wax floats up"},
	{Code: "old-chain-off", Phase: ChainOff, Title: "Take the worn chain off", Station: AtStand, Minutes: 3, After: []string{"clutch-off", "cover-brakes", "agree"}, When: "chain-goes", Cautions: []Caution{Gloves},
		Tools: []string{"chain tool"}, Uses: []Use{{GlovePair, 1, Once}},
		Do: "Wipe it so that you can handle it, cut it, keep it until the new one is sized.", Why: "Its length is one of the ways to size the new one.", Done: "Old chain is off"},
	{Code: "jar", Phase: ChainOff, Title: "Chain into the jar", Station: InTub, Minutes: 3, After: []string{"open-chain", "hot-water"}, When: "jar !film", Cautions: []Caution{Gloves, Air, Waste},
		Wait: &Wait{Code: "jar-soak", Least: 30, Most: alloyMost}, Uses: []Use{{Degreaser, jarML, Mixed}}, Tools: []string{"jar"},
		Do: "Degreaser to cover, some air left, lid on. Shake, vent, let it soak.", Why: "The dirt that wears a chain is inside its rollers; only soaking and shaking reach it.", Done: "Start the soak",
		Or: []Variant{{When: "long-soak", Wait: &Wait{Code: "jar-soak", Least: 30, Most: soakMost}}}},
	{Code: "film-soak", Phase: ChainOff, Bath: "solvent-jar", Title: "Film off in its solvent", Station: InTub, Minutes: 4, After: []string{"open-chain"}, When: "film", Cautions: []Caution{Gloves, Air, Waste},
		Wait: &Wait{Code: "solvent-soak", Least: 60, Most: alloyMost}, Uses: []Use{{Solvent, jarML, Once}}, Tools: []string{"jar", "scraper"},
		Do: "Chain into a solvent made for this film, lid on. Scrape off what peels after the soak.", Why: "Water-based degreaser does not lift a dried film.", Done: "Start the soak"},

	// Strip: apart
	{Code: "gear-set", Phase: Degrease, Title: "Shift to working gear", Station: AtStand, Minutes: 1, After: []string{"cover-brakes", "agree"}, When: "on-bike derailleur",
		Do: "Largest chainring and smallest sprocket for wiping.", Why: "The chain runs straight and there is room for the rag.", Done: "Gear is set", Or: []Variant{{When: "chain-bath", Do: "Smallest chainring and smallest sprocket for the cleaner."}}},
	{Code: "wheel-out", Phase: Apart, Title: "Rear wheel out", Station: AtStand, Minutes: 2, After: []string{"gear-set", "cover-brakes", "open-chain", "old-chain-off", "clutch-off", "agree"}, When: "wheel-out", Cautions: []Caution{Braking}, Tools: []string{"hex 5 and 6 mm", "pad spacer"},
		Do: "Smallest sprocket, wheel out, spacer between the pads. Do not squeeze the lever.", Why: "The wheel is tilted for brushing, so that nothing runs into the hub.", Done: "Wheel is out",
		Or: []Variant{
			{When: "rim", Do: "Smallest sprocket, rim brake opened at its release, wheel out."},
			{When: "!derailleur", Do: "Note where the axle sits and how the shift or brake cable runs. Wheel out, spacer between disc pads. Do not squeeze the lever."},
			{When: "!derailleur rim", Do: "Note where the axle sits and how the shift cable runs. Rim brake opened at its release, wheel out."},
			{When: "hub-motor", Do: "Power off, battery off, motor cable unplugged. Note how the cable runs and the washers in their order; wheel out, brake release open or spacer between the pads.", Cautions: []Caution{Electric}},
		}},
	{Code: "dummy-hub", Phase: Apart, Title: "Dummy hub in", Station: AtStand, Minutes: 1, After: []string{"wheel-out"}, When: "wheel-out on-bike", Tools: []string{"dummy hub"},
		Do: "A dummy hub carries the chain in place of the wheel.", Why: "The chain stays off the frame, and runs straight.", Done: "Chain is carried"},
	{Code: "sprockets-off", Phase: Apart, Title: "Cassette off", Station: InTub, Minutes: 3, After: []string{"wheel-out"}, When: "strip derailleur | parts-off", Cautions: []Caution{Gloves, Air, Waste},
		Wait: &Wait{Code: "tub-soak", Least: 30, Most: alloyMost}, Uses: []Use{{Degreaser, trayML, Mixed}}, Tools: []string{"chain whip", "lockring tool", "tub"},
		Do: "Lockring off, spacers on a wire in order, everything into the tub. Used fluid from the chain will do.", Why: "On the wheel a brush reaches only half of it. Alloy soaks two hours at most.", Done: "Start the soak",
		Or: []Variant{{When: "parts-washer", Station: AtStand, NoWait: true, Uses: []Use{}, Tools: []string{"chain whip", "lockring tool"}, Do: "Lockring off, spacers on a wire in order, all of it to the parts washer.", Why: "On the wheel a brush reaches only half of it.", Done: "Cassette is off"}}},
	{Code: "pulleys-off", Phase: Apart, Title: "Jockey wheels out", Station: AtStand, Minutes: 6, After: []string{"open-chain", "old-chain-off", "photograph"}, When: "strip derailleur | parts-off", Tools: []string{"hex 3 mm", "parts tray"},
		Do: "Jockey wheels out before the derailleur gets degreaser. Note which is the upper one and which way round.", Why: "Degreaser takes the grease out of their bearings or bushes.", Done: "Jockey wheels are out",
		Or: []Variant{{When: "parts-off", Do: "Out of the cage, note which is the upper one and which way round. Brush and wipe them; with their bearings in they are never soaked."}}},
	{Code: "derailleur-off", Phase: Apart, Title: "Rear derailleur off and clean", Station: AtStand, Minutes: 12, After: []string{"pulleys-off"}, When: "strip derailleur", Cautions: []Caution{Gloves}, Tools: []string{"hex 5 mm", "detail brush"}, Uses: []Use{{Degreaser, bathML, Once}},
		Do: "Take it off, brush it with degreaser in every position, wipe it dry. Clutch cover: look only; the maker's grease, none on the friction band.", Why: "Grit in the pivots wears them and spoils the shifting.", Done: "Derailleur is clean"},
	{Code: "pulley-bearings", Phase: Apart, Title: "Feel the jockey wheel bearings", Station: AtStand, Minutes: 4, After: []string{"pulleys-off"}, When: "strip derailleur | parts-off", Tools: []string{"seal pick"}, Uses: []Use{{Grease, 1, Once}},
		Do: "Wipe both, spin, feel. Cartridge: lift the seal, fresh grease, seal back.", Why: "A rough jockey wheel grinds, and sounds like a worn chain.", Done: "They run smooth"},
	{Code: "guide-off", Phase: Apart, Title: "Chain guide off", Station: AtStand, Minutes: 4, After: []string{"open-chain", "old-chain-off"}, When: "strip guide", Tools: []string{"hex 4 mm"},
		Do: "Take the guide or guard off and clean it; the crank may have to come off first.", Why: "Dirt left under it gets onto the clean chain.", Done: "Guide is off"},
	{Code: "crank-off", Phase: Apart, Title: "Crank and chainrings off", Station: InTub, Minutes: 12, After: []string{"open-chain", "old-chain-off", "guide-off"}, When: "strip", Tools: []string{"crank tool", "soft mallet", "hex 8 mm"}, Cautions: []Caution{Gloves, Air, Waste},
		Wait: &Wait{Code: "tub-soak", Least: 15, Most: alloyMost, Until: []string{"rings-scrub"}}, Uses: []Use{{Degreaser, trayML, Mixed}},
		Do: "Crank off, chainrings off where the back is dirty, note which way round, chainrings into the tub.", Why: "There is no other way to reach the backs of the chainrings and the spider.", Done: "Start the soak",
		Or: []Variant{{When: "parts-washer", Station: AtStand, NoWait: true, Uses: []Use{}, Do: "Crank off, chainrings off where the back is dirty, note which way round, chainrings to the parts washer.", Done: "Crank is off"}}},
	{Code: "look-bearings", Phase: Apart, Title: "Look behind the crank", Station: AtStand, Minutes: 3, After: []string{"crank-off"}, When: "strip",
		Do: "Bottom bracket, back of the crank, frame behind the chainring. Wipe old grease off splines and contact faces.", Why: "Cracks and rough bearings hide here. Note what you find.", Done: "Checked and wiped"},

	// Degrease on the bike
	{Code: "chain-wipe", Phase: Degrease, Title: "Wipe the chain", Station: AtStand, Minutes: 2, After: []string{"gear-set", "cover-brakes", "dummy-hub", "open-chain", "agree"}, When: "chain-wipe", Cautions: []Caution{Fingers, Gloves}, Uses: []Use{{Rags, 1, Once}, {GlovePair, 1, Once}},
		Do: "A dry rag around the lower run, back-pedal by hand, a fresh part of the rag until it comes away clean.", Why: "Dirt left outside works its way into the rollers.", Done: "Chain is wiped",
		Or: append(turned("A dry rag along the chain, link by link."), Variant{When: "opens", Do: "Off the bike, link by link with a dry rag, a fresh part of it until it comes away clean."})},
	{Code: "chain-brush", Phase: Degrease, Title: "Degreaser by brush and rag", Station: AtStand, Minutes: 3, After: []string{"gear-set", "cover-brakes", "dummy-hub", "agree"}, When: "chain-quick on-bike", Cautions: []Caution{Fingers, Gloves, Waste},
		Wait: &Wait{Code: "degreaser-on", Least: 1, Most: 10}, Uses: []Use{{Degreaser, 20, Once}, {Rags, 2, Once}, {GlovePair, 1, Once}}, Tools: []string{"claw brush"},
		Do: "Degreaser on the brush, never sprayed toward the wheel. Brush all four sides of the lower run while you back-pedal.", Why: "A spray drives dirt into the chain and reaches the rotor.", Done: "Degreaser is on",
		Or: append([]Variant{{When: "spray-degreaser", Do: "No rotor and no rim near: sprayed along the lower run from the drive side, a cloth behind it, then brushed on all four sides while you back-pedal."}},
			turned("Degreaser on the brush, all four sides, link by link.")...)},
	{Code: "sprockets-wet", Phase: Degrease, Title: "Degreaser on the cassette", Station: AtStand, Minutes: 1, After: []string{"wheel-out", "cover-brakes", "old-chain-off", "open-chain", "agree"}, When: "parts-brush | parts-tray", Cautions: []Caution{Gloves, Air, Braking},
		Wait: &Wait{Code: "degreaser-on", Least: 1, Most: 10}, Uses: []Use{{Degreaser, 15, Once}},
		Do: "On the brush, wheel tilted so that nothing runs into the hub. A minute or two.", Why: "Clumps come off easily once they are soaked.", Done: "Start the timer",
		Or: []Variant{
			{When: "parts-tray | hub-motor !wheel-out | wheel-in", Do: "Where it sits, on brush or cloth only, the rotor covered, the bike tilted so that nothing runs into the freehub. A minute or two."},
			{When: "!derailleur", Title: "Degreaser on the sprocket", Do: "On the brush or a cloth, where it sits, the bike tilted so that nothing runs into the hub. A minute or two."},
		}},
	{Code: "pulleys-wipe", Phase: Degrease, Title: "Wipe jockey wheels and chainring", Station: AtStand, Minutes: 2, After: []string{"chain-wipe", "cover-brakes", "old-chain-off", "agree"}, When: "parts-wipe | parts-tray", Cautions: []Caution{Fingers},
		Do: "Both faces of each jockey wheel and the chainring with the drivetrain cloth.", Why: "The black dirt on them goes straight back onto the chain.", Done: "They are wiped",
		Or: []Variant{{When: "!derailleur", Title: "Wipe chainring and sprocket", Do: "Both faces of the chainring and of the sprocket with the drivetrain cloth."}}},
	{Code: "pulleys-scrape", Phase: Degrease, Title: "Scrape the jockey wheels", Station: AtStand, Minutes: 2, After: []string{"cover-brakes", "wheel-out", "open-chain", "old-chain-off", "agree"}, When: "parts-brush derailleur", Cautions: []Caution{Fingers}, Tools: []string{"plastic scraper", "brush"},
		Do: "Plastic scraper along both faces of each jockey wheel while you turn it by hand. Brush, then wipe with the drivetrain cloth. Check the shape of the teeth.", Why: "Dirt left on them is back in the chain after the first ride.", Done: "Jockey wheels are clean"},
	{Code: "chain-brush-off", Phase: Degrease, Title: "Wipe the degreaser off", Station: AtStand, Minutes: 2, After: []string{"chain-brush"}, When: "chain-quick on-bike", Cautions: []Caution{Fingers}, Tools: []string{"drivetrain cloth"},
		Do: "Damp cloth around the lower run, then a dry one. Rinse where the label asks for it.", Why: "Degreaser left in the rollers thins the new oil.", Done: "Degreaser is off",
		Or: turned("Damp cloth along the chain, then a dry one.")},
	{Code: "rings-brush", Phase: Degrease, Title: "Brush the chainrings", Station: AtStand, Minutes: 3, After: []string{"cover-brakes", "open-chain", "old-chain-off", "agree"}, When: "parts-brush !strip | parts-off", Tools: []string{"detail brush"}, Cautions: []Caution{Fingers, Gloves}, Uses: []Use{{Degreaser, 10, Once}},
		Do: "Both faces and between the chainrings, the chain set aside on the frame side.", Why: "Grit collects on the back of a chainring, where nobody looks.", Done: "Chainrings are clean"},
	{Code: "sprockets-brush", Phase: Degrease, Title: "Brush the cassette", Station: AtStand, Minutes: 4, After: []string{"sprockets-wet"}, When: "parts-brush | parts-tray", Tools: []string{"claw brush", "bottle brush"}, Cautions: []Caution{Gloves},
		Do: "Hook clumps out, brush between each pair of sprockets, pull the edge of a rag through. Wet again what stays.", Why: "Packed dirt lifts the chain off the teeth, and it skips.", Done: "Cassette is clean", Fail: "Still clumps between", Back: []string{"sprockets-brush"},
		Or: []Variant{{When: "!derailleur", Title: "Brush the sprocket", Do: "Hook clumps out, brush both faces, pull the edge of a rag behind it.", Done: "Sprocket is clean"}}},
	{Code: "bath-on", Phase: Degrease, Title: "Clip-on cleaner on", Station: AtStand, Minutes: 2, After: []string{"gear-set", "pulleys-scrape", "sprockets-brush", "rings-brush", "dummy-hub"}, When: "chain-bath on-bike", Tools: []string{"clip-on chain cleaner", "rag"}, Uses: []Use{{Degreaser, bathML, Mixed}, {GlovePair, 1, Once}}, Cautions: []Caution{Gloves, Braking},
		Do: "Cleaner level on the lower run, rag around it to catch drips, filled to its line.", Why: "When it is not level it pulls the chain off the chainring and drips on the rotor.", Done: "Cleaner is on",
		Or: []Variant{
			{When: "wheel-in", Do: "The wheel stays in: a cloth over rotor and rim. Cleaner level on the lower run, rag around it to catch drips, filled to its line."},
			{When: "!derailleur", Do: "No derailleur to hook it on: hold it by hand, level, never sideways. Rag around it, filled to its line."},
		}},
	{Code: "bath-degrease", Phase: Degrease, Title: "Run the cleaner, 20–30 crank turns", Station: AtStand, Minutes: 3, After: []string{"bath-on"}, When: "chain-bath on-bike", Cautions: []Caution{Fingers},
		Wait: &Wait{Code: "degreaser-on", Least: 1, Most: 10},
		Do:   "Back-pedal slowly, 20 to 30 turns of the crank, until the chain is bright and fresh fluid no longer darkens.", Why: "Dark fluid means it is working; clear fluid means no more dirt comes out.", Done: "Chain is bright",
		Or: turned("Wheel off the ground, motor off, the wheel turned forward by hand for 20 to 30 turns.")},
	{Code: "bath-soap", Phase: Degrease, Title: "Soapy water, same again", Station: AtStand, Minutes: 4, After: []string{"bath-degrease"}, When: "chain-bath on-bike", Cautions: []Caution{Fingers, Waste}, Uses: []Use{{Shampoo, 5, Once}},
		Wait: &Wait{Code: "drip", Least: 5},
		Do:   "Drain into its container, wipe the cleaner out. Warm soapy water to the line, turn again, drain. Clear water where the label asks for it. Let it drip.", Why: "Degreaser left in the rollers thins the new oil.", Done: "Chain is rinsed",
		Or: turned("Drain into its container. Warm soapy water to the line, the wheel turned forward by hand again, drain, let it drip.")},

	// Wash
	{Code: "frame-wipe", Phase: Washing, Title: "Wipe the frame", Station: AtStand, Minutes: 8, After: []string{"clamp", "cover-brakes", "agree"}, When: "dry-wipe", Tools: []string{"soft cloth"}, Uses: []Use{{Rags, 1, Once}},
		Do: "Soft cloth from the top down, the drivetrain last. Look for damage.", Why: "For dust a cloth is enough, and no water gets into the bearings.", Done: "Frame is wiped"},
	{Code: "cleaner-on", Phase: Washing, Title: "Cleaner on, top down", Station: AtStand, Minutes: 3, After: []string{"pre-rinse", "cover-brakes", "agree"}, When: "wet-wash", Cautions: []Caution{Electric, Braking}, Uses: []Use{{Shampoo, bucketML, Once}},
		Wait: &Wait{Code: "cleaner-on", Least: 1, Most: 10}, Tools: []string{"bucket", "soft frame brush"},
		Do: "From the top down, on brush or cloth. Follow the label's time; never let it dry on.", Why: "Dried cleaner marks paint.", Done: "Start the timer",
		Or: []Variant{
			{When: "spray-cleaner !disc", Do: "Sprayed on from the top down. Follow the label's time; never let it dry on."},
			{When: "spray-cleaner disc", Do: "Sprayed on from the top down, away from the covered rotors: near them on brush or cloth. Follow the label's time; never let it dry on."},
			{When: "dish-soap", Do: "Dish soap well thinned, from the top down on brush or cloth. It carries salt and strips grease: not into bearings or joints, rinsed off at once."},
		}},
	{Code: "agitate", Phase: Washing, Title: "Brush, top down", Station: AtStand, Minutes: 10, After: []string{"cleaner-on"}, When: "wet-wash", Tools: []string{"soft frame brush"},
		Do: "Soft clean brush from the top down, washed out often. Never use this brush on the drivetrain.", Why: "Chain dirt on a frame brush scratches the paint.", Done: "Frame is brushed", Or: []Variant{{When: "hose", Minutes: 7}, {When: "washer", Minutes: 2}}},
	{Code: "under-parts", Phase: Washing, Title: "Wash under and behind parts", Station: AtStand, Minutes: 5, After: []string{"agitate"}, When: "wet-wash", Cautions: []Caution{Braking}, Tools: []string{"bottle brush", "rotor cloth"},
		Do: "Under the bottom bracket, guards, cages and racks, both sides of the rims, hubs with the bottle brush; bars, grips, levers, saddle and pedals too, little water at the shifters. Rotors only with their own clean cloth; calipers get plain soap and are rinsed.", Why: "Mud left there holds water against bolts and bearings.", Done: "All of it is done", Or: []Variant{{When: "washer", Minutes: 2}}},
	{Code: "look-wet", Phase: Washing, Title: "Look for damage while wet", Station: AtStand, Minutes: 1, After: []string{"agitate", "frame-wipe"}, When: "!express",
		Do: "Frame, fork, rims, rotors, pads, tyres, cables, bolts. Note what you find.", Why: "Cracks show dark when they are wet; loose parts show under a brush.", Done: "Checked",
		Or: []Variant{{When: "!wet-wash", Title: "Look for damage", Why: "A crack stays as a dark line; loose parts move under your hand."},
			{When: "!wet-wash !dry-wipe", Phase: Degrease}}},
	{Code: "rag-test", Phase: Degrease, Title: "White rag test", Station: AtStand, Minutes: 1, After: []string{"chain-wipe", "chain-brush-off", "bath-soap"}, When: "on-bike !chain-wipe", Cautions: []Caution{Fingers}, Uses: []Use{{Rags, 1, Once}},
		Do: "Pull a white rag along for ten turns; a finger on a roller. A grey trace is fine; black: clean it again.", Why: "It looks clean long before it is clean inside.", Done: "Only a grey trace", Fail: "Still black", Back: []string{"bath-on", "chain-brush"},
		Or: turned("White rag along the whole chain; a finger on a roller. A grey trace is fine; black: clean it again.")},
	{Code: "rinse", Phase: Washing, Title: "Rinse, top down", Station: AtStand, Minutes: 3, After: []string{"under-parts", "look-wet"}, When: "wet-wash", Cautions: []Caution{Electric, Spray, Braking},
		Or: []Variant{{When: "washer", Do: "Low pressure, a metre off, wheels and guards only. Never at bearings, hubs, headset, fork and shock seals, motor, battery, display, switches. Stand on the non-drive side for the drivetrain."}},
		Do: "Gently, from the top down, standing on the non-drive side for the drivetrain. Never at bearings, hubs, headset or seals.", Why: "Water pushed past a seal stays there.", Done: "It is rinsed"},
	{Code: "frame-dry", Phase: Washing, Title: "Bounce off water, dry frame", Station: AtStand, Minutes: 4, After: []string{"rinse", "bath-soap", "chain-brush-off"}, When: "wet-wash", Tools: []string{"soft cloth"}, Uses: []Use{{Rags, 1, Once}},
		Do: "Lift and drop the bike lightly on its wheels, spin wheels and cassette. Soft cloth for the frame, the old one for the drivetrain, never swapped. No compressed air at bearings.", Why: "Water left standing gets into every screw.", Done: "Frame is dry",
		Or: []Variant{{When: "!derailleur", Do: "Lift and drop the bike lightly on its wheels, spin them. Soft cloth for the frame, the old one for the drivetrain, never swapped. No compressed air at bearings."}}},
	{Code: "contacts-dry", Phase: Washing, Title: "Dry the contacts", Station: AtStand, Minutes: 2, After: []string{"frame-dry", "frame-wipe"}, When: "motor", Cautions: []Caution{Electric}, Gate: true,
		Do: "Battery and display contacts dry, contact spray as the maker allows.", Why: "Wet contacts corrode, and short-circuit when the power comes on.", Done: "Contacts are dry"},

	// The chain off the bike
	{Code: "film-scrape", Phase: ChainBath, Title: "Scrape what peels", Station: InTub, Minutes: 6, After: []string{"film-soak"}, When: "film", Cautions: []Caution{Gloves, Air}, Tools: []string{"scraper", "brush"},
		Do: "Scrape and brush the loosened film from plates and rollers.", Why: "A film that stays keeps wax and oil off the metal.", Done: "Bare metal all round", Fail: "Film is still on", Back: []string{"film-soak"}},
	{Code: "chain-scrub", Phase: ChainBath, Title: "Scrub the chain", Station: InTub, Minutes: 12, After: []string{"jar"}, When: "jar !film", Cautions: []Caution{Gloves}, Tools: []string{"brush", "tray"},
		Do: "Outer faces, then between the rollers; flip it and do the other side.", Why: "Shaking alone leaves dirt packed between the plates.", Done: "Scrubbed on both sides"},
	{Code: "jar-refresh", Phase: ChainBath, Title: "Change the fluid, shake again", Station: InTub, Minutes: 4, After: []string{"chain-scrub"}, When: "jar !film", Cautions: []Caution{Gloves, Waste}, Uses: []Use{{Degreaser, jarML, Mixed}},
		Do: "Used fluid into its container, fresh to cover, shake, vent, look. A very dirty chain takes three fills.", Why: "The chain is clean inside when the fluid stays clear.", Done: "It stays clear", Fail: "Dark again", Back: []string{"jar-refresh"}},
	{Code: "tray-scrub", Phase: ChainBath, Title: "Scrub the chain in the tray", Station: InTub, Minutes: 12, After: []string{"open-chain", "hot-water"}, When: "tray", Cautions: []Caution{Gloves, Air, Waste}, Tools: []string{"tray", "brush"}, Uses: []Use{{Degreaser, jarML, Mixed}},
		Do: "Degreaser to cover. Brush all four sides and between the rollers, bending it as you go; flip it, do it again.", Why: "In half an hour a brush in a tray reaches more than anything on the bike.", Done: "Bright on all sides"},
	{Code: "chain-rag", Phase: ChainBath, Title: "White rag test", Station: InTub, Minutes: 1, After: []string{"jar-refresh", "tray-scrub"}, When: "jar !film | tray", Uses: []Use{{Rags, 1, Once}}, Cautions: []Caution{Gloves},
		Do: "Pull the whole chain through a white rag; a finger on a roller. A grey trace is fine; black: clean it again.", Why: "It looks clean long before it is clean inside.", Done: "Only a grey trace", Fail: "Still black", Back: []string{"jar-refresh", "tray-scrub"},
		Or: []Variant{{When: "drip-wax", Do: "Pull the whole chain through a white rag; a finger on a roller. It must stay white: any trace of oil, and it is cleaned again.", Why: "Wax does not hold where oil is left.", Done: "Rag stays white"}}},
	{Code: "new-grease", Phase: ChainBath, Bath: "ultrasonic-tank", Title: "Take the grease off the new chain", Station: InTank, Minutes: 5, After: []string{"old-chain-off"}, When: "bare chain-goes", Cautions: []Caution{Gloves, Air, Tank, Waste}, Wait: &Wait{Code: "tank", Least: 60, Most: 120}, Tools: []string{"basket"}, Uses: []Use{{Degreaser, trayML, Mixed}},
		Do: "New chain in the clean-only bath: about 30 °C, 30 minutes, turn over, 30 more. Never in a bath that had dirty chains.", Why: "Wax does not hold on factory grease.", Done: "Start the tank"},
	{Code: "bare-one", Phase: ChainBath, Title: "First bath: dirt out", Station: InTub, Minutes: 5, After: []string{"open-chain", "jar-refresh", "film-scrape"}, When: "bare !chain-goes !film", Cautions: []Caution{Gloves, Air, Waste}, Wait: &Wait{Code: "jar-soak", Least: 15, Most: alloyMost}, Uses: []Use{{Degreaser, jarML, Mixed}}, Tools: []string{"jar"},
		Do: "Chain in fresh degreaser, shaken; refreshed until it stays clear.", Why: "Dirt first: the second bath then only has to take the last oil.", Done: "Start the soak"},
	{Code: "solvent-air", Phase: ChainBath, Title: "Let the solvent air off", Station: OnRack, Minutes: 1, After: []string{"film-scrape", "bare-one"}, When: "solvent-rinse", Cautions: []Caution{Gloves, Air}, Wait: &Wait{Code: "airing", Least: 15, Most: 240},
		Do: "Hang it in moving air, away from heat and flame, until it neither smells nor feels cold.", Why: "Solvent never goes into a tank: its vapour burns.", Done: "Start airing"},
	{Code: "solvent-soap", Phase: ChainBath, Title: "Soap and water before the tank", Station: InTub, Minutes: 3, After: []string{"solvent-air"}, When: "solvent-rinse", Cautions: []Caution{Gloves}, Uses: []Use{{Shampoo, 5, Once}, {Rags, 1, Once}},
		Do: "Wipe it, wash it in soapy water, rinse it clear.", Why: "What is left of the solvent spoils the water-based fluid.", Done: "Rinsed clear"},
	{Code: "bare-two", Phase: ChainBath, Bath: "ultrasonic-tank", Title: "Ultrasonic: last oil out", Station: InTank, Minutes: 4, After: []string{"bare-one", "film-scrape", "solvent-soap"}, When: "bare !chain-goes", Cautions: []Caution{Gloves, Tank, Waste}, Wait: &Wait{Code: "tank", Least: 15, Most: 60}, Tools: []string{"basket"}, Uses: []Use{{Degreaser, trayML, Mixed}},
		Do: "Basket in the tank, water-based fluid to cover, lid on, hands out. 15 to 20 minutes and look.", Why: "Oil that is left keeps wax off the pins.", Done: "Start the tank"},
	{Code: "bare-look", Phase: ChainBath, Title: "Check for bare metal", Station: InTank, Minutes: 2, After: []string{"bare-two", "new-grease"}, When: "bare", Cautions: []Caution{Gloves},
		Do: "A drop of water spreads on bare metal and beads on oil. A white rag stays white.", Why: "Wax over oil does not hold.", Done: "Water spreads: bare", Fail: "Water beads: again", Back: []string{"bare-two", "new-grease"}},
	{Code: "acid-bath", Phase: ChainBath, Title: "Citric bath", Station: InTub, Minutes: 4, After: []string{"chain-rag", "bare-look"}, When: "acid", Cautions: []Caution{Gloves, Acid, Waste}, Wait: &Wait{Code: "acid-soak", Least: 60, Most: acidMost}, Uses: []Use{{CitricAcid, acidG, Once}},
		Do: "50 g to a litre, acid into water. Look every hour, twelve hours at most.", Why: "It takes the rust off; too long makes hardened steel brittle.", Done: "Start the bath"},
	{Code: "neutralise", Phase: ChainBath, Title: "Neutralise", Station: InTub, Minutes: 2, After: []string{"acid-bath"}, When: "acid", Cautions: []Caution{Gloves}, Wait: &Wait{Code: "neutralise", Least: 5, Most: 30}, Uses: []Use{{Bicarbonate, sodaG, Once}},
		Do: "Bicarbonate, 20 g to a litre, five minutes. If it is pitted or stiff after that, replace it.", Why: "Acid left in the chain keeps eating the steel.", Done: "Start the five minutes"},
	{Code: "chain-rinse", Phase: ChainBath, Title: "Rinse the chain", Station: InTub, Minutes: 2, After: []string{"chain-rag", "bare-look", "neutralise", "film-scrape"}, When: "jar !no-rinse | tray !no-rinse | bare !no-rinse | acid",
		Do: "Hot water for a water-based fluid until it runs clear.", Why: "Degreaser left inside spoils the new lubricant.", Done: "It runs clear",
		Or: []Variant{
			{When: "oil-heated", Do: "Hot water until it runs clear, then fresh water: nothing of the cleaner goes into the lubricant bath."},
			{When: "acid", Do: "Water until it runs clear, whatever the degreaser's card says.", Why: "Acid and soda left inside keep eating the steel."},
		}},
	{Code: "flex", Phase: ChainBath, Title: "Flex it next to your ear", Station: InTub, Minutes: 1, After: []string{"chain-rinse", "chain-rag"}, When: "jar !film | tray",
		Do: "Bend the chain close to your ear, along its whole length.", Why: "Grit that you can hear wears the chain.", Done: "No grit heard", Fail: "Sounds gritty", Back: []string{"jar-refresh", "tray-scrub"}},
	{Code: "chain-hang", Phase: Drying, Title: "Hang the chain to dry", Station: OnRack, Minutes: 2, After: []string{"chain-rinse", "flex", "hot-water", "solvent-soap"}, When: "jar | tray | bare | rewax | acid", Wait: &Wait{Code: "dry", Least: 30, Most: 90},
		Do: "Pull it through a cloth, then hang it in moving air. Compressed air along its length, if you have it.", Why: "Water in the rollers keeps lubricant out and rusts.", Done: "Start drying", Or: []Variant{{When: "blower", Wait: &Wait{Code: "dry", Least: 15, Most: 75}},
			{When: "tray !no-rinse", Wait: &Wait{Code: "dry", Least: 10, Most: 75}, Do: "Through a cloth, then compressed or warm air along its length, until no drop flies off; hang it in moving air."},
			{When: "tray blower", Title: "Blow the chain dry", NoWait: true, Do: "Through a cloth, then the blower along its length, until no drop flies off.", Done: "No drop flies off"}}},
	// The pot is hot by the time the chain is dry, and not for hours before.
	{Code: "wax-melt", Phase: ChainBath, Title: "Melt the wax", Station: OnPot, Minutes: 2, After: []string{"chain-rinse", "hot-water"}, When: "immersion-wax", Cautions: []Caution{HotWax},
		Wait: &Wait{Code: "wax-melt", Least: 15}, Tools: []string{"wax pot", "thermometer"},
		Do: "Pot on as its product card says; without a card 95 °C, never above 110 °C. Lid at hand, no flame, no water near.", Why: "Wax near its smoke point is dangerous, and more heat does not help.", Done: "Pot is on"},

	// Parts off the bike
	{Code: "sprockets-scrub", Phase: Rebuild, Title: "Scrub the cassette", Station: InTub, Minutes: 10, After: []string{"sprockets-off"}, When: "strip derailleur | parts-off", Cautions: []Caution{Gloves}, Tools: []string{"brush"},
		Do: "Each sprocket by itself, both faces, rinse, dry. Check every tooth.", Why: "Only off the hub can you see all of it.", Done: "Cassette is clean",
		Or: []Variant{{When: "parts-washer", Station: InWash, Do: "In the parts washer, pump and brush, each sprocket by itself, both faces. Dry. Check every tooth."}}},
	{Code: "rings-scrub", Phase: Rebuild, Title: "Scrub the chainrings", Station: InTub, Minutes: 5, After: []string{"crank-off"}, When: "strip", Cautions: []Caution{Gloves}, Tools: []string{"brush"},
		Do: "Both faces, the spider and the bolts; rinse, dry, check every tooth.", Why: "Worn chainrings drop chains.", Done: "Chainrings are clean",
		Or: []Variant{{When: "parts-washer", Station: InWash, Do: "In the parts washer, pump and brush: both faces, the spider and the bolts. Dry, check every tooth."}}},
	{Code: "freehub", Phase: Rebuild, Title: "Wipe and grease the freehub", Station: AtStand, Minutes: 2, After: []string{"sprockets-scrub"}, When: "strip derailleur | parts-off", Uses: []Use{{Grease, 1, Once}},
		Do: "Body wiped, a thin smear of grease, unless the maker says dry.", Why: "Dry splines creak and seize.", Done: "Thin smear is on", Or: []Variant{{When: "freehub-dry", Do: "Body wiped and left dry, as this shop does it, unless the maker says otherwise."}}},
	{Code: "sprockets-on", Phase: Rebuild, Title: "Cassette on", Station: AtStand, Minutes: 4, After: []string{"freehub"}, When: "strip derailleur | parts-off", Cautions: []Caution{Torque}, Tools: []string{"torque wrench", "lockring tool"}, Gate: true,
		Do: "Line up the wide spline, spacers in order, markings outward. Lockring to the torque marked on it (40 N·m where it is so marked).", Why: "With a loose lockring the cassette moves on the freehub.", Done: "Lockring torqued"},
	{Code: "crank-on", Phase: Rebuild, Title: "Chainrings and crank on", Station: AtStand, Minutes: 10, After: []string{"rings-scrub", "look-bearings"}, When: "strip", Cautions: []Caution{Torque}, Tools: []string{"torque wrench"}, Uses: []Use{{Threadlock, 0.3, Once}, {Grease, 1, Once}}, Gate: true,
		Do: "Chainring bolts with a drop of medium threadlocker, crank to the torque marked on it.", Why: "A crank that works loose is ruined, and throws its rider.", Done: "Crank torqued"},
	{Code: "derailleur-on", Phase: Rebuild, Title: "Derailleur and jockey wheels on", Station: AtStand, Minutes: 8, After: []string{"derailleur-off", "pulley-bearings"}, When: "strip derailleur | parts-off", Cautions: []Caution{Torque}, Tools: []string{"hex 3 and 5 mm"}, Uses: []Use{{Threadlock, 0.2, Once}}, Gate: true,
		Do: "Hanger bolt and jockey wheel bolts with a drop of medium threadlocker, upper and lower the right way round.", Why: "A jockey wheel bolt that comes out takes the derailleur into the wheel.", Done: "Bolts are tight",
		Or: []Variant{{When: "parts-off", Title: "Jockey wheels on", Minutes: 4, Do: "Both bolts with a drop of medium threadlocker, upper and lower the right way round."}}},
	{Code: "wheel-in", Phase: Rebuild, Title: "Wheel in", Station: AtStand, Minutes: 2, After: []string{"wheel-out", "sprockets-on", "sprockets-brush", "frame-dry", "rag-test", "derailleur-on", "look-wet"}, When: "wheel-out", Cautions: []Caution{Torque}, Tools: []string{"torque wrench"},
		Do: "Pad spacer out, wheel seated fully, axle to the torque marked on it.", Why: "A wheel that is not seated rubs, and can come out.", Done: "Wheel is in",
		Or: []Variant{
			{When: "rim", Do: "Wheel seated fully, brake release closed, axle to the torque marked on it."},
			{When: "hub-motor", Do: "Washers in their order, wheel seated fully, brake closed, cable plugged in and run as it was, axle nuts to the torque marked on them.", Cautions: []Caution{Electric}},
		}},

	// Dry
	{Code: "air-dry", Phase: Drying, Title: "Let the drivetrain dry", Station: OnRack, Minutes: 1, After: []string{"frame-dry", "rag-test"}, When: "on-bike wetted", Wait: &Wait{Code: "dry", Least: 30, Most: 90}, Uses: []Use{{Displacer, 5, Once}}, Cautions: []Caution{Braking, Air},
		Do: "Cloth through chain and cassette, water-dispersing spray on a cloth for the rest, away from rotor and rim.", Why: "Water in the rollers keeps lubricant out and rusts.", Done: "Start drying", Or: []Variant{{When: "!derailleur", Do: "Cloth along chain and sprocket, water-dispersing spray on a cloth for the rest, away from rotor and rim."}, {When: "blower", Wait: &Wait{Code: "dry", Least: 15, Most: 75}},
			{When: "blower chain-quick !wet-wash", Title: "Blow the drivetrain dry", Station: AtStand, Minutes: 2, NoWait: true, Do: "Cloth through chain and cassette, then the blower along both until no drop flies off, never at bearings.", Done: "No drop flies off"},
			{When: "blower chain-quick !wet-wash !derailleur", Do: "Cloth along chain and sprocket, then the blower along both until no drop flies off, never at bearings."},
			{When: "wax", Uses: []Use{}, Do: "Cloth along chain and teeth, then moving or warm air. No water-dispersing spray: wax does not hold on it."}}},
	{Code: "dry-check", Phase: Drying, Title: "Check it is dry inside", Station: OnRack, Minutes: 1, After: []string{"chain-hang", "air-dry"}, When: "wetted | jar | tray | bare | rewax | acid", Wait: &Wait{Code: "bare-steel", Most: bareMost, Until: []string{"oil", "drip-one", "wax-in", "grease-wipe"}},
		Do: "Flex the chain over white paper: no drop, no dark edge. The rust timer starts now.", Why: "Bare steel rusts within the hour; if you cannot go on, use water-dispersing spray or a film of oil.", Done: "It is dry", Fail: "Still wet inside", Back: []string{"chain-hang", "air-dry"},
		Or: []Variant{{When: "blower chain-quick !wet-wash", Station: AtStand}, {When: "wax", Why: "Bare steel rusts within the hour. If you cannot go on: warm air, only after a water rinse and never at a chain that smells of solvent or feels cold; no spray and no oil under wax.", Cautions: []Caution{Air}}}},

	// Wax
	{Code: "wax-in", Phase: Lubricate, Bath: "wax-pot", Title: "Chain into the wax", Station: OnPot, Minutes: 3, After: []string{"dry-check", "wax-melt"}, When: "immersion-wax", Cautions: []Caution{HotWax}, Wait: &Wait{Code: "wax-hold", Least: 30, Most: 60}, Uses: []Use{{WaxSolid, waxTakeG, Once}}, Tools: []string{"wire"},
		Do: "Bone dry, on a wire through both ends, into the wax. Stir now and then; the dip is counted.", Why: "Solvent left in it burns, and water makes hot wax spit.", Done: "Start the hold"},
	{Code: "wax-off", Phase: Lubricate, Title: "Heat off, wait for the skin", Station: OnPot, Minutes: 1, After: []string{"wax-in"}, When: "immersion-wax", Cautions: []Caution{HotWax}, Wait: &Wait{Code: "wax-skin", Least: 5, Most: 40},
		Do: "Heat off, chain stays in. Wait until a skin just forms; the product card gives the temperature.", Why: "If you lift it hotter, the wax runs out of the rollers again.", Done: "Heat is off"},
	{Code: "wax-lift", Phase: Lubricate, Title: "Lift when the skin forms", Station: OnPot, Minutes: 2, After: []string{"wax-off"}, When: "immersion-wax", Cautions: []Caution{HotWax}, Wait: &Wait{Code: "wax-hang", Least: 20},
		Do: "When a skin just forms, lift it and hang it vertical over the pot.", Why: "Drips fall back into the pot, and the rollers stay full.", Done: "Start hanging"},
	{Code: "wax-break", Phase: Lubricate, Title: "Free every link", Station: OnRack, Minutes: 4, After: []string{"wax-lift"}, When: "immersion-wax", Tools: []string{"dowel"},
		Do: "When it is cold, bend every link over a dowel.", Why: "A stiff waxed chain climbs the teeth.", Done: "Every link moves"},

	// Chain on
	{Code: "new-chain", Phase: Lubricate, Title: "Fit the new chain", Station: AtStand, Minutes: 10, After: []string{"old-chain-off", "wheel-in", "sprockets-brush", "rings-brush", "pulleys-scrape", "pulleys-wipe", "crank-on", "derailleur-on", "frame-dry", "frame-wipe", "dry-check", "wax-break"}, When: "chain-goes", Cautions: []Caution{Fingers, Joint, Load}, Gate: true, Tools: []string{"chain tool", "link pliers"},
		Do: "Size it, cut it, thread it, join it, test it under load. Note it under Replace: parts and counts are kept there.", Why: "Length, joining link and old teeth decide whether it holds.", Done: "Chain is on and noted"},
	{Code: "chain-on", Phase: Lubricate, Title: "Chain on, joining link seated", Station: AtStand, Minutes: 4, After: []string{"wheel-in", "dry-check", "wax-break", "crank-on", "derailleur-on", "frame-dry", "frame-wipe"}, When: "opens", Cautions: []Caution{Fingers, Joint}, Gate: true, Tools: []string{"link pliers"}, Uses: []Use{{JoinLink, 1, Once}},
		Do: "Over the front of the upper jockey wheel, round the back of the lower one, inside the tab. Join it, hold the rear brake and push on the pedal until the link snaps in.", Why: "A chain that opens throws the rider.", Done: "Link is seated and loaded",
		Or: []Variant{{When: "!derailleur", Do: "Round sprocket and chainring. Join it, set the tension, hold the rear brake and push on the pedal until the link snaps in."}}},

	{Code: "tension", Phase: Lubricate, Title: "Set the chain tension", Station: AtStand, Minutes: 3, After: []string{"chain-on", "new-chain", "wheel-in", "agree"}, When: "!derailleur", Cautions: []Caution{Torque}, Tools: []string{"torque wrench"}, Gate: true,
		Do: "Turn the crank to the tightest point: 8 to 12 mm up and down at mid-run. Axle and tug nuts to the torque marked on them.", Why: "Too slack and it comes off; too tight and it ruins the bearings.", Done: "Tension is set"},

	// Oil and drip wax
	{Code: "oil", Phase: Lubricate, Title: "One drop on every roller", Station: AtStand, Minutes: 2, After: []string{"dry-check", "chain-on", "new-chain", "chain-wipe", "frame-wipe", "frame-dry"}, When: "oil !new-grease-stays", Cautions: []Caution{Fingers, Braking}, Wait: &Wait{Code: "soak-in", Least: 5, Most: 60}, Uses: []Use{{ChainOil, oilDropML, PerLink}},
		SecondRound: "Second round, where the first soaked in at once",
		Do:          "One drop on each roller, inside of the chain, from the joining link round to it again.", Why: "Only the rollers need it; oil on the plates just collects grit.", Done: "Every roller has its drop",
		Or: []Variant{
			{When: "stream", Minutes: 1, Uses: []Use{{ChainOil, oilDropML * streamBy, PerLink}}, Do: "A thin stream on the inside of the lower run while you back-pedal: one turn of the chain for each side."},
			{When: "spray-oil", Minutes: 1, Uses: []Use{{ChainOil, oilDropML * sprayBy, PerLink}}, Do: "A cloth behind, the rotor and the rim covered: inside and each side, one turn of the chain each. Not near rotors."},
			{When: "oil-off", Station: OnRack, Do: "Before it goes on: one drop on each roller, on the inside of the chain, from one end to the other."},
			{When: "oil-heated", Station: InOil, Bath: "lubricant-bath", Cautions: []Caution{Gloves}, Minutes: 5, Wait: &Wait{Code: "oil-bath", Least: 60, Most: 120}, Do: "Rinsed and dry, into the lubricant bath, an oil made for it and nothing else: 30 °C, lid on, hands out, basket shaken, 30 minutes a side. Let it drip, and look with a lamp that it has gone in."},
		}},
	{Code: "oil-wipe", Phase: Lubricate, Title: "Run it, wipe it off", Station: AtStand, Minutes: 2, After: []string{"oil"}, When: "oil !new-grease-stays", Cautions: []Caution{Fingers}, Uses: []Use{{Rags, 1, Once}},
		Do: "Through the gears, then wipe top, bottom and both sides until nearly dry, with a clean part of the rag.", Why: "Too much oil is the commonest mistake.", Done: "Finger takes only a trace", Fail: "Still wet outside", Back: []string{"oil-wipe"},
		Or: turned("Wipe top, bottom and both sides until nearly dry, the chain standing still.")},
	{Code: "grease-wipe", Phase: Lubricate, Title: "Wipe the outside of the new chain", Station: AtStand, Minutes: 2, After: []string{"new-chain", "gear-set", "cover-brakes", "dummy-hub", "agree"}, When: "new-grease-stays", Cautions: []Caution{Fingers, Gloves}, Uses: []Use{{Rags, 1, Once}, {Degreaser, 5, Once}},
		Do: "A cloth damp with degreaser over the outside only. The good grease inside stays.", Why: "The sticky outside collects dirt, and a dry cloth does not take it off.", Done: "Outside is clean",
		Or: []Variant{
			{When: "storage-grease", Title: "Wipe the storage grease off the outside", Do: "A cloth damp with degreaser over the outside of the chain, the derailleur's spring and the bottom bracket shell. The good grease inside the chain stays."},
			{When: "storage-grease !derailleur", Do: "A cloth damp with degreaser over the outside of the chain and the bottom bracket shell. The good grease inside the chain stays."},
		}},
	{Code: "drip-one", Phase: Lubricate, Title: "Drip wax, first coat", Station: AtStand, Minutes: 3, After: []string{"dry-check", "chain-on", "new-chain", "chain-wipe", "frame-wipe", "frame-dry"}, When: "drip-wax", Cautions: []Caution{Braking}, Wait: &Wait{Code: "wax-dry", Least: 30, Most: 1440, Until: []string{"drip-two", "gears-through"}}, Uses: []Use{{WaxDrip, waxDropML, PerLink}},
		Do: "One drop on each roller. Not wiped while wet.", Why: "It has to run in before it sets.", Done: "Start drying",
		Or: []Variant{{When: "top-up", Title: "Drip wax, one coat", Do: "One drop on each roller, over the wax that is on. Not wiped while wet; overnight is better, cold and damp take longer.", Wait: &Wait{Code: "wax-set", Least: 240}, Done: "Start setting"}}},
	{Code: "drip-two", Phase: Lubricate, Title: "Drip wax, second coat", Station: AtStand, Minutes: 3, After: []string{"drip-one"}, When: "drip-wax !top-up", Cautions: []Caution{Braking}, Wait: &Wait{Code: "wax-set", Least: 240}, Uses: []Use{{WaxDrip, waxDropML, PerLink}},
		Do: "When the first coat is touch-dry, the same again. Overnight is better; cold and damp take longer. Dry flakes fall off by themselves.", Why: "The first coat wets the roller, the second fills it.", Done: "Start setting"},
	{Code: "pivots", Phase: Lubricate, Title: "Oil the pivots", Station: AtStand, Minutes: 2, After: []string{"oil-wipe", "grease-wipe", "drip-one", "chain-on", "frame-dry", "frame-wipe"}, When: "!express", Cautions: []Caution{Braking}, Uses: []Use{{ChainOil, 0.3, Once}},
		Do: "A trace on levers and cable ends, never near rim or rotor.", Why: "With dry pivots the gears shift late.", Done: "Pivots move freely", Or: []Variant{{When: "derailleur", Do: "Four pivots of each derailleur, lever and cable ends a trace, never near rim or rotor."}}},

	// Finish
	{Code: "index", Phase: Finish, Title: "Index the gears", Station: AtStand, Minutes: 8, After: []string{"chain-on", "new-chain", "wheel-in", "derailleur-on"}, When: "strip derailleur | chain-goes derailleur",
		Do: "Limit screws, then the cable, up and down through the whole range. Clutch on.", Why: "Everything was apart; nothing is where it was.", Done: "It shifts cleanly"},
	{Code: "brake-faces", Phase: Finish, Title: "Clean the rotors or rims", Station: AtStand, Minutes: 2, After: []string{"pivots", "wheel-in", "rinse", "oil-wipe", "frame-wipe"}, When: "disc !express | rim !express", Cautions: []Caution{Air, Holds}, Uses: []Use{{Alcohol, 10, Once}}, Tools: []string{"rotor cloth"},
		Do: "Covers off. Rotors or rims with alcohol on their own cloth. Oil on one: wipe at once, clean, then decide on the pads.", Why: "Anything left on them ruins the braking.", Done: "They are clean",
		Or: []Variant{{When: "rim", Title: "Clean the rims", Do: "Covers off. Rims with alcohol on their own cloth. Oil on one: wipe at once, clean, then decide on the pads."},
			{When: "disc", Title: "Clean the rotors", Do: "Covers off. Rotors with alcohol on their own cloth. Oil on one: wipe at once, clean, then decide on the pads."}}},
	{Code: "frame-protect", Phase: Finish, Title: "Protect the frame", Station: AtStand, Minutes: 2, After: []string{"frame-dry", "frame-wipe"}, When: "protect", Uses: []Use{{Protectant, 5, Once}},
		Do: "On a cloth, not sprayed. Never on tyres, saddle, grips, pedals, rims or rotors.", Why: "Mud comes off more easily next time.", Done: "Frame is done"},
	{Code: "gears-through", Phase: Finish, Title: "Run through all gears", Station: AtStand, Minutes: 1, After: []string{"index", "oil-wipe", "chain-on", "new-chain", "wheel-in", "drip-one", "grease-wipe", "tension"}, When: "derailleur !express | hub-gear !express",
		Do: "Every gear, up and down, by hand.", Why: "A stiff link or a bent hanger shows now, or later on the road.", Done: "All gears run"},
	{Code: "axles", Phase: Finish, Title: "Check the axles", Station: AtStand, Minutes: 1, After: []string{"wheel-in", "chain-on", "new-chain", "tension", "frame-dry", "frame-wipe"}, Cautions: []Caution{Torque}, Gate: true, Tools: []string{"torque wrench"},
		Do: "Both axles at the torque marked on them, levers closed.", Why: "A wheel that comes out is the worst that can happen.", Done: "Both axles are tight"},
	{Code: "brakes-test", Phase: Finish, Title: "Test both brakes", Station: AtStand, Minutes: 1, After: []string{"brake-faces", "axles", "wheel-in"}, Cautions: []Caution{Holds, Carry}, Gate: true,
		Do: "Pull each lever hard against the wheel: no squeal, no fade, no lever to the bar.", Why: "The bike does not leave the stand before both hold.", Done: "Both brakes hold", Fail: "One does not hold", Back: []string{"brake-faces", "brakes-test"}},
	{Code: "motor-on", Phase: Finish, Title: "Motor on: test in walk mode", Station: AtStand, Minutes: 2, After: []string{"contacts-dry", "axles", "brakes-test", "gears-through"}, When: "motor", Cautions: []Caution{Electric, Fingers}, Gate: true,
		Do: "Contacts dry, battery in, power on, one turn in walk mode, hands away from the chain.", Why: "If something got wet, it shows here and not on the customer's way home.", Done: "Motor runs"},
	{Code: "ride", Phase: Finish, Title: "Test ride", Station: AtStand, Minutes: 3, After: []string{"brakes-test", "gears-through", "motor-on", "drip-one", "drip-two", "oil-wipe", "grease-wipe"}, When: "!express",
		Do: "Ride it under load in a few gears, test both brakes, listen.", Why: "In the stand there is no load on the chain.", Done: "It rides well", Fail: "Something is not right", Back: []string{"gears-through", "brakes-test"}},
	{Code: "final-look", Phase: Finish, Title: "Final look", Station: AtStand, Minutes: 1, After: []string{"ride", "frame-protect", "pivots"},
		Do: "Walk round it once. Nothing wet on cassette or chainring, nothing left in the tray.", Why: "The customer will look too.", Done: "Ready to hand back",
		Or: []Variant{{When: "!derailleur", Do: "Walk round it once. Nothing wet on sprocket or chainring, nothing left in the tray."}}},
	{Code: "waste", Phase: Finish, Title: "Put the waste away", Station: AtStand, Minutes: 1, After: []string{"bath-soap", "jar-refresh", "tray-scrub", "hot-water", "bare-two", "new-grease", "sprockets-scrub", "crank-off", "chain-brush-off", "film-scrape", "final-look"}, When: "wastes", Cautions: []Caution{Waste},
		Do: "Used fluid, oily water, sludge and rags into their containers; note about how much.", Why: "It goes to the local authority or a contractor, never down a drain or on the ground.", Done: "Waste is put away"},
}

// turned words a step for chains that back-pedalling does not move: nothing stops a fixed chain, so it
// stands still or runs on the dummy hub.
func turned(do string) []Variant {
	return []Variant{
		{When: "turned-forward", Do: do + " As the house has it: rear wheel off the ground, turned forward, motor off."},
		{When: "fixed", Do: do + " The wheel is out and the chain on the dummy hub: it moves only as far as you pull it."},
		{When: "forward-only", Do: do + " It cannot be back-pedalled: wheel off the ground, turned forward by hand, motor off."},
	}
}
