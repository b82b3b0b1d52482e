package practice

// How describes how a tool is used: cautions first, then three to six steps. The maker's procedure
// takes precedence.
type How struct {
	Cautions []string
	Steps    []string
	// Guide is the section of the help that says more.
	Guide string
}

// The cautions of several tools.
const (
	sparkCaution  = "Ignition off before you touch a coil or lead: it carries tens of kV. Stay away if you have a pacemaker."
	runCaution    = "Keep hands, hair and leads clear of belts, fan and hot exhaust."
	fuelCaution   = "Shut off the fuel and clear vapours before any open spark."
	makerCaution  = "Follow the maker's procedure and your local rules first."
	threadCaution = "Work on a cold head. Blow out the wells with eyes protected, before a plug comes out."
)

// Hows lists the instructions of each tool, by the name of its view (C: common practice).
var Hows = map[string]How{
	"codes": {
		Cautions: []string{"Save everything before you clear anything. Clearing erases the freeze frame and the counters."},
		Steps:    []string{"Connect the scan tool, ignition on.", "Read stored, pending and permanent codes.", "Type each code with its state, or paste the whole scan.", "Copy the freeze frame: it shows in which condition to test."},
		Guide:    "job"},
	"live": {
		Cautions: []string{runCaution, "Who drives does not read. Do not drive hard while the lamp flashes: raw fuel destroys the catalyst.", makerCaution},
		Steps:    []string{"Connect to the diagnostic plug, ignition on.", "Read everything and record it, before anything is cleared.", "Clear with the engine off.", "Begin a run, and run the engine in the condition in which it fails.", "End the run: revolutions, opportunities and misfires are recorded by condition."},
		Guide:    "live"},
	"trims": {
		Cautions: []string{runCaution},
		Steps:    []string{"Warm the engine up until it runs in closed loop.", "Let it idle, and read short and long trim of each bank.", "Type them with their signs. Plus means that the unit adds fuel, because the mixture is lean."},
		Guide:    "job"},
	"counters": {
		Cautions: []string{runCaution, "Do not drive hard while the lamp flashes: raw fuel destroys the catalyst."},
		Steps:    []string{"Set the counters to zero, if your scan tool can.", "Run the engine in the condition in which it fails.", "Watch for at least five minutes.", "Type the revolutions, or the minutes with the speed, and the count of each cylinder."},
		Guide:    "sure"},
	"watch": {
		Cautions: []string{runCaution},
		Steps:    []string{"Run the engine in the condition in which it fails.", "Follow the misfire in live data, by feel or by ear.", "Mark the cylinders that missed. Mark none if it ran clean.", "For a misfire that comes and goes, count starts, hills or drives."},
		Guide:    "sure"},
	"look": {
		Cautions: []string{sparkCaution, threadCaution, makerCaution},
		Steps:    []string{"Unplug the connector at its latch, never by the wires.", "Look at pins, boot, spring and case with a lamp.", "Look into the well for oil, water or rust.", "Choose what you found. “Sound” is a result too."},
		Guide:    "plugs"},
	"covers": {
		Cautions: []string{makerCaution},
		Steps:    []string{"Tick what is off now.", "Note the gaskets that must be new.", "Use the open engine: the plan names work that costs less now."},
		Guide:    "engine"},
	"move": {
		Cautions: []string{sparkCaution, "Never run a coil with nothing on its output.", makerCaution},
		Steps:    []string{"Write the tag on the part with tape and marker.", "Exchange it with the part of the partner cylinder.", "Clear the codes and set the counters to zero.", "Record the move here.", "Run the engine in the condition in which it fails."},
		Guide:    "next"},
	"parts": {
		Cautions: []string{sparkCaution},
		Steps:    []string{"Read from left to right: each column is one move.", "Follow the line of a part to its place.", "Put all parts back with one entry when the search is over."},
		Guide:    "engine"},
	"check": {
		Cautions: []string{makerCaution},
		Steps:    []string{"Choose the test and the place.", "Make the test as your equipment's instructions say.", "Record the plain answer."},
		Guide:    "readings"},
	"spark": {
		Cautions: []string{fuelCaution, sparkCaution, "Ground the tester with a lead and keep your hands off it."},
		Steps:    []string{"Set the tester's gap. A wider gap proves more kilovolts.", "Connect it to the end of the boot or lead.", "Ground the tester on bare metal.", "Crank, or run the engine if the test asks for it.", "Record whether the spark is strong, weak, sometimes missing, or absent."},
		Guide:    "readings"},
	"meter": {
		Cautions: []string{"Ignition off for every resistance. No bare meter at a coil driver while it runs: it kicks back to hundreds of volts."},
		Steps:    []string{"Hold the meter's leads together, and type what they show.", "Read the part in question and its siblings.", "Type each figure. OL means over range.", "Bend or pull the part while you read it. A jump is a break."},
		Guide:    "readings"},
	"chain": {
		Cautions: []string{sparkCaution, "Use a scope or a logic probe at the trigger, never a test lamp."},
		Steps:    []string{"Start at the top: each link feeds the next.", "Measure feed and ground under load, while cranking.", "Look for the trigger pulse.", "Prove the wire before you suspect the control unit."},
		Guide:    "readings"},
	"kv": {
		Cautions: []string{runCaution, sparkCaution},
		Steps:    []string{"Clamp each lead, or hold the adapter over each coil.", "Record some seconds at idle, with one snap of the throttle.", "Save it as a scope file: CSV or WAV.", "Send it here, and check that cylinder 1 is where it belongs."},
		Guide:    "readings"},
	"plugs": {
		Cautions: []string{threadCaution, sparkCaution},
		Steps:    []string{"Lay the plugs out in cylinder order, noses up.", "Compare them with each other before you read one.", "Tap what you see on the plug that differs.", "Measure the gap with wires.", "Look at what sat on the plug, and into the well."},
		Guide:    "plugs"},
	"beside": {
		Cautions: []string{makerCaution},
		Steps:    []string{"Hold the new part beside the old one.", "Compare thread, reach, seat, heat range and resistor.", "Compare pins and latch of a coil.", "Do not fit a part that differs in a graver point."},
		Guide:    "plugs"},
	"worksheet": {
		Cautions: []string{makerCaution, sparkCaution},
		Steps:    []string{"Do the open step. Its figure stands in large type.", "Type what you measured, if the step asks for it.", "Tick it. The next step opens.", "List what comes off as it comes off: each thing gets a step to go back.", "Skip a step that does not apply, and say why."},
		Guide:    "fix"},
	"danger": {
		Steps: []string{"Take the key out, and hang a note on the wheel.", "Choose what was found, and on which part.", "Do what ends the danger.", "Record what was done. The job then goes on."},
		Guide: "stop"},
	"prove": {
		Cautions: []string{runCaution, "Do not drive hard while the lamp flashes: raw fuel destroys the catalyst."},
		Steps:    []string{"Start the engine before the covers go back on.", "Save the codes, clear them, and set the counters to zero.", "Run the engine in the condition in which it failed, until the bar is full.", "Read the codes: none may be pending.", "Set a date for what takes days: a recheck, or a permanent code."},
		Guide:    "proof"},
	"clearing": {
		Cautions: []string{"Save everything before you clear anything. Clearing erases the freeze frame and the counters."},
		Steps:    []string{"Read and record all codes and the readiness.", "Clear the codes, and set the misfire counters to zero.", "Record it here.", "Set aside old counts whose beginning nobody knows."},
		Guide:    "proof"},
	"recheck": {
		Steps: []string{"Choose the day on which the vehicle comes back.", "Write down what is looked at then.", "On that day, run the engine and read the codes. The recheck is then done."},
		Guide: "proof"},
	"closing": {
		Steps: []string{"Check that nothing is left off the engine, and no borrowed part on it.", "Print the finding for the owner.", "Close the job."},
		Guide: "proof"},
	"comeback": {
		Steps: []string{"Ask the driver whether it feels as it did before.", "Choose the earlier job.", "Record it. The suspects then start from the old evidence.", "Withdraw the entry if it turns out to be another trouble."},
		Guide: "comeback"},
	"renewal": {
		Cautions: []string{makerCaution},
		Steps:    []string{"Tick the parts that were renewed.", "Type the number of the new part. The catalogue knows its design.", "Say what becomes of the old part. A sound one can be kept as a tested spare.", "Clear the codes and set the counters to zero.", "Run the engine in the condition in which it failed."},
		Guide:    "fix"},
	"fit": {
		Cautions: []string{sparkCaution, makerCaution},
		Steps:    []string{"Put right what the verdict names, at its place.", "Clear the codes and set the counters to zero.", "Record it here. A new part is recorded under Renewed."},
		Guide:    "verdict"},
	"verdict": {
		Cautions: []string{"A verdict is a judgement. Clean running in the failing condition proves it."},
		Steps:    []string{"Check that every gate is met.", "Read what speaks against it.", "Sign with your name.", "Print the finding for the owner."},
		Guide:    "verdict"},
	"withdraw": {
		Cautions: []string{"Nothing is erased: both entries stay in the ledger."},
		Steps:    []string{"Choose the entry that was wrong.", "Read what the withdrawal would change.", "Give the reason and confirm."},
		Guide:    "job"},
}
