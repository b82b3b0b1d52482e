// Package plan chooses the next step of a job: the one with the least expected wasted time in
// minutes, parts and wrong verdicts. It also opens the gates of a verdict, and offers the
// verdict when it can be signed.
package plan

import (
	"fmt"

	"glenmist/core/evidence"
	"glenmist/core/knowledge"
)

// Step is one thing a technician can do.
type Step struct {
	// ID is a stable word that other programs may rely on.
	ID    string `json:"id"`
	Words string `json:"words"`
	// Minutes it usually takes with nothing in the way; what covers cost comes on
	// top, by vehicle.
	Minutes  float64  `json:"minutes"`
	Tools    []string `json:"tools"`
	Cautions []string `json:"cautions"`
	// Source states where the minutes come from.
	Source string `json:"source"`
}

// The ids of the steps.
const (
	ReadCodes     = "read.codes"
	CountMisfires = "count.misfires"
	ReadTrims     = "read.trims"
	FindCylinder  = "find.cylinder"
	RunAfterMove  = "run.after-move"
	SwapCoil      = "swap.coil"
	SwapLead      = "swap.lead"
	SwapBoot      = "swap.boot"
	SwapPlug      = "swap.plug"
	SwapSplit     = "swap.split"
	TrySpare      = "try.spare"
	PutBack       = "put.back"
	LookConnector = "look.connector"
	LookPlugBoot  = "look.plug-and-boot"
	LookPlugLead  = "look.plug-and-lead"
	LookCapRotor  = "look.cap-and-rotor"
	CheckSmoke    = "check.smoke"
	CheckFuel     = "check.fuel-pressure"
	CheckStopWire = "check.stop-wire"
	CheckAirGap   = "check.air-gap"
	CheckRouting  = "check.lead-routing"
	CheckTiming   = "check.timing"
	TestSpark     = "test.spark"
	TestCoilOhms  = "test.coil-resistance"
	TestLeadOhms  = "test.lead-resistance"
	ReadKV        = "read.kilovolts"
	TestTrigger   = "test.trigger"
	TestInjector  = "test.injector"
	TestCompress  = "test.compression"
	TestExchange  = "test.injector-exchange"
	TestLeakDown  = "test.leak-down"
	TestCrank     = "test.crank-signal"
	TestWatch     = "test.trigger-watch"
	TestOverlay   = "test.overlay"
	CheckStopRun  = "check.stop-wire-run"
	TestWiggle    = "test.wiggle"
	TestWire      = "test.wire"
	SignVerdict   = "sign.verdict"
	FixAndProve   = "fix.and-prove"
	StopEngine    = "stop.engine"
	EndUnresolved = "hand.back"
)

// The cautions. The maker's procedure, local rules and licensed practice come
// before any of them.
const (
	highVoltage = "Ignition off before a coil or lead is touched: tens of kV; with a pacemaker, stay away."
	lockTab     = "Pull connector and coil by their bodies, never by the wires."
	pullBoot    = "Pull a lead by its boot with a twist, never by the wire."
	runningBay  = "Hands, hair and leads clear of belts, fan and hot exhaust; lead the gas off."
	rawFuel     = "A dead cylinder sends raw fuel to the catalyst: short runs, and no hard driving with the lamp flashing."
	coldHead    = "Head cold, well blown out with eyes protected."
	threads     = "Start plugs by hand, then torque."
	openCoil    = "Never run a coil with nothing on its output."
	makerFirst  = "The maker's procedure comes first."
	blade       = "Small engine: plug lead off before hands go near a blade or the flywheel."
)

// Steps is the catalogue. Minutes are judgements of common practice (C).
var Steps = []Step{
	{ReadCodes, "Read the trouble codes", 3, []string{"scan tool"}, []string{"Save everything before anything is cleared: clearing wipes the freeze frame and the counters."}, "C; judgement"},
	{CountMisfires, "Count the misfires per cylinder", 6, []string{"scan tool"}, []string{runningBay, rawFuel}, "C; judgement: five minutes of running and one to read"},
	{ReadTrims, "Read the fuel trims", 2, []string{"scan tool"}, []string{runningBay}, "C; judgement: engine warm, in closed loop"},
	{FindCylinder, "Find which cylinder does not pull", 8, []string{"grounded tester", "insulated pliers"}, []string{highVoltage, runningBay, openCoil, "Take the spark away into a grounded tester, never into the air."}, "C; judgement: one cylinder after the other without its spark"},
	{RunAfterMove, "Run it and see where the misfire is now", 6, nil, []string{runningBay, rawFuel}, "C; judgement"},
	{SwapCoil, "Exchange the coil", 12, []string{"small socket", "tape and marker"}, []string{highVoltage, lockTab, openCoil, makerFirst}, "C; judgement: six minutes of work and six of running"},
	{SwapLead, "Exchange the lead", 11, []string{"tape and marker"}, []string{highVoltage, pullBoot, openCoil, makerFirst}, "C; judgement: five minutes of work and six of running"},
	{SwapBoot, "Exchange the boot", 14, []string{"small socket", "tape and marker"}, []string{highVoltage, lockTab, openCoil, makerFirst}, "C; judgement"},
	{SwapPlug, "Exchange the plug", 26, []string{"plug socket", "torque wrench", "compressed air"}, []string{highVoltage, coldHead, threads, makerFirst}, "C; judgement: two plugs out and in, six minutes of running"},
	{SwapSplit, "Move two parts apart in one go", 32, []string{"plug socket", "torque wrench", "compressed air", "tape and marker"}, []string{highVoltage, lockTab, coldHead, threads, makerFirst}, "C; judgement: three wells opened, one run"},
	{TrySpare, "Try a known-good spare", 14, []string{"known-good part", "tape and marker"}, []string{highVoltage, openCoil, blade, makerFirst}, "C; judgement"},
	{PutBack, "Put the old part back", 12, []string{"tape and marker"}, []string{highVoltage, openCoil, blade, makerFirst}, "C; judgement"},
	{LookConnector, "Look at the coil connector", 3, []string{"lamp"}, []string{highVoltage, lockTab}, "C; judgement"},
	{LookPlugBoot, "Look at the plug and the boot", 14, []string{"plug socket", "lamp", "torque wrench"}, []string{highVoltage, coldHead, threads, makerFirst}, "C; judgement: one coil and one plug out and in"},
	{LookPlugLead, "Look at the plug and the lead", 11, []string{"plug socket", "lamp", "torque wrench"}, []string{highVoltage, pullBoot, coldHead, threads, makerFirst}, "C; judgement: one lead off, one plug out and in"},
	{LookCapRotor, "Look into the cap", 6, []string{"lamp", "screwdriver"}, []string{highVoltage, pullBoot, makerFirst}, "C; judgement"},
	{CheckSmoke, "Smoke into the intake", 15, []string{"smoke machine"}, nil, "C; judgement"},
	{CheckFuel, "Fuel pressure and volume", 15, []string{"fuel gauge"}, nil, "C; judgement"},
	{CheckStopWire, "Spark with the stop wire off", 6, []string{"grounded tester"}, nil, "C; judgement"},
	{CheckAirGap, "Air gap by feeler", 6, []string{"feeler gauge"}, nil, "C; judgement"},
	{CheckRouting, "Leads against the firing order", 4, []string{"lamp"}, nil, "C; judgement"},
	{CheckTiming, "Base timing", 12, []string{"timing lamp"}, nil, "C; judgement"},
	{TestSpark, "Spark test", 7, []string{"spark tester"}, nil, "C; judgement"},
	{TestCoilOhms, "Resistance of the coil", 9, []string{"multimeter"}, nil, "C; judgement: the others are read as well"},
	{TestLeadOhms, "Resistance of the lead", 6, []string{"multimeter"}, nil, "C; judgement: the others are read as well"},
	{ReadKV, "Secondary kilovolts", 9, []string{"scope with a kV clamp"}, nil, "C; judgement"},
	{TestTrigger, "Feed, ground and trigger at the coil", 14, []string{"scope or logic probe", "multimeter"}, nil, "C; judgement"},
	{TestInjector, "Test the injector", 22, []string{"multimeter", "listening rod"}, nil, "C; judgement"},
	{TestCompress, "Relative compression", 14, []string{"current clamp or gauge"}, nil, "C; judgement"},
	{SignVerdict, "Sign the verdict", 1, nil, nil, "C; judgement"},
	{TestExchange, "Exchange the injector", 50, []string{"new seals"}, nil, "C; judgement: rail up, two injectors out and in, six minutes of running"},
	{TestWiggle, "Wiggle the connector while it runs", 5, []string{"insulated pliers"}, nil, "C; judgement"},
	{TestWire, "Trigger wire end to end", 20, []string{"multimeter"}, nil, "C; judgement: both ends found and unplugged"},
	{TestLeakDown, "Leak-down", 30, []string{"leak-down gauge", "compressed air"}, nil, "C; judgement"},
	{TestCrank, "Crank or pickup signal", 12, []string{"scope or logic probe"}, nil, "C; judgement"},
	{TestWatch, "Watch the trigger while it runs", 22, []string{"scope or logic probe"}, nil, "C; judgement: both ends found and probed, five minutes of running"},
	{TestOverlay, "Run it on overlay wires", 24, []string{"fused test leads"}, nil, "C; judgement: three clipped on in turn, five minutes of running with each"},
	{CheckStopRun, "Run with the stop wire off", 11, []string{"insulated pliers"}, nil, "C; judgement: five minutes of running with it off, and with it on"},
	{EndUnresolved, "End the job unresolved, with a recheck", 5, nil, nil, "C; judgement"},
	{StopEngine, "Keep the engine off until the danger is over", 15, []string{"lamp", "borescope"}, []string{"Take the key out, and hang a note on the wheel.", makerFirst}, "C; judgement"},
	{FixAndProve, "Put it right, then prove it", 30, []string{"torque wrench"}, []string{highVoltage, threads, makerFirst}, "C; judgement"},
}

// checkSteps states which step makes which test.
var checkSteps = map[evidence.TestID]string{
	evidence.Smoke: CheckSmoke, evidence.FuelPressure: CheckFuel, evidence.StopWireOff: CheckStopWire,
	evidence.AirGapCheck: CheckAirGap, evidence.LeadRouting: CheckRouting, evidence.TimingLamp: CheckTiming,
	evidence.Spark: TestSpark, evidence.CoilResistance: TestCoilOhms, evidence.LeadResistance: TestLeadOhms, evidence.Kilovolts: ReadKV,
	evidence.TriggerPulse: TestTrigger, evidence.InjectorTest: TestInjector, evidence.CompressionTest: TestCompress,
	evidence.InjectorExchange: TestExchange, evidence.LeakDown: TestLeakDown, evidence.CrankSignal: TestCrank, evidence.Wiggle: TestWiggle, evidence.WireTest: TestWire,
	evidence.TriggerWatch: TestWatch, evidence.StopWireRun: CheckStopRun, evidence.Overlay: TestOverlay,
}

// stepTable looks up the minutes of a step.
var stepTable = knowledge.Register(knowledge.TableOf[Step, map[string]float64]{
	Title: "Steps", In: knowledge.OfWork, Ships: Steps,
	Describe: func(s *Step) knowledge.Row {
		return knowledge.Row{ID: "step:" + s.ID, Of: s.Words + " (" + s.ID + ")", Says: fmt.Sprintf("%g min", s.Minutes), Source: s.Source,
			Figures: []knowledge.Figure{{Words: "Minutes", At: &s.Minutes, Least: 0.5, Most: knowledge.MaxOwnMinutes}}}
	},
	Index: func(rows []Step) map[string]float64 {
		m := map[string]float64{}
		for _, s := range rows {
			m[s.ID] = s.Minutes
		}
		return m
	},
})

// StepMinutes is how long a step takes with nothing in the way, by a workshop's own figure where it has
// one.
func StepMinutes(b *knowledge.Beliefs, step string) float64 { return stepTable.Of(b)[step] }

// Find is the step of an id; every id above has one. A test's own caution is the
// step's too.
func Find(id string) Step {
	for _, s := range Steps {
		if s.ID != id {
			continue
		}
		for test, step := range checkSteps {
			if t, ok := evidence.FindTest(test); ok && step == id {
				s.Cautions = []string{t.Caution, makerFirst}
			}
		}
		return s
	}
	return Step{ID: id, Words: id}
}

// runRevolutions is the run that a step counts on: five minutes at 700 rpm.
const runRevolutions = 3500
