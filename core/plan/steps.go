// Package plan chooses what to do next: the step that tells most about the
// faulty unit for each minute it costs, the gates that stand before a verdict,
// and the verdict itself when it can be signed.
package plan

// Step is one thing a technician can do.
type Step struct {
	// ID is a stable word that other programs may rely on.
	ID    string `json:"id"`
	Words string `json:"words"`
	// Minutes it usually takes with free access to the coils.
	Minutes  float64  `json:"minutes"`
	Tools    []string `json:"tools"`
	Cautions []string `json:"cautions"`
	// Source says where the minutes come from.
	Source string `json:"source"`
}

// The ids of the steps.
const (
	ReadCodes     = "read.codes"
	CountMisfires = "count.misfires"
	RunAfterMove  = "run.after-move"
	SwapCoil      = "swap.coil"
	SwapPlug      = "swap.plug"
	LookConnector = "look.connector"
	LookPlugBoot  = "look.plug-and-boot"
	SignVerdict   = "sign.verdict"
	FixAndProve   = "fix.and-prove"
)

// The cautions. The maker's procedure, local rules and licensed practice come
// before any of them.
const (
	highVoltage = "Ignition off before a coil is touched: tens of kV; with a pacemaker, stay away."
	lockTab     = "Pull connector and coil by their bodies, never by the wires."
	runningBay  = "Hands, hair and leads clear of belts, fan and hot exhaust; lead the gas off."
	rawFuel     = "A dead cylinder sends raw fuel to the catalyst: short runs, and no hard driving with the lamp flashing."
	coldHead    = "Head cold, well blown out with eyes protected."
	threads     = "Start plugs by hand, then torque."
	openCoil    = "Never run a coil with nothing on its output."
	makerFirst  = "The maker's procedure comes first."
)

// Steps is the catalogue. Minutes are judgements of common practice (C) for a
// coil-on-plug engine with nothing over the coils.
var Steps = []Step{
	{ReadCodes, "Read the trouble codes", 3, []string{"scan tool"}, []string{"Save everything before anything is cleared: clearing wipes the freeze frame and the counters."}, "C; judgement"},
	{CountMisfires, "Count the misfires per cylinder", 6, []string{"scan tool"}, []string{runningBay, rawFuel}, "C; judgement: five minutes of running and one to read"},
	{RunAfterMove, "Run it and see where the misfire is now", 6, []string{"scan tool"}, []string{runningBay, rawFuel}, "C; judgement"},
	{SwapCoil, "Exchange the coil with another cylinder's", 12, []string{"small socket", "tape and marker", "scan tool"}, []string{highVoltage, lockTab, openCoil, makerFirst}, "C; judgement: six minutes of work and six of running"},
	{SwapPlug, "Exchange the plug with another cylinder's", 26, []string{"plug socket", "torque wrench", "compressed air", "scan tool"}, []string{highVoltage, coldHead, threads, makerFirst}, "C; judgement: two coils and two plugs out and in, six minutes of running"},
	{LookConnector, "Look at the coil connector", 3, []string{"lamp"}, []string{highVoltage, lockTab}, "C; judgement"},
	{LookPlugBoot, "Look at the plug and the boot", 14, []string{"plug socket", "lamp", "torque wrench"}, []string{highVoltage, coldHead, threads, makerFirst}, "C; judgement: one coil and one plug out and in"},
	{SignVerdict, "Sign the verdict", 1, nil, nil, "C; judgement"},
	{FixAndProve, "Put it right, then prove it", 30, []string{"torque wrench"}, []string{highVoltage, threads, makerFirst}, "C; judgement"},
}

// Find is the step of an id; every id above has one.
func Find(id string) Step {
	for _, s := range Steps {
		if s.ID == id {
			return s
		}
	}
	return Step{ID: id, Words: id}
}

// runRevolutions is the run that a step counts on: five minutes at 700 rpm.
const runRevolutions = 3500
