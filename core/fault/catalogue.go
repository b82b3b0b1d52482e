// Package fault is the catalogue of what can be wrong: each mode with the
// repair unit it belongs to, how it behaves when parts are moved or touched,
// and how common it is before anything is known.
package fault

// Unit is the kind of thing a repair replaces or puts right.
type Unit string

// The repair units of a coil-on-plug ignition, and the two that are none.
const (
	Coil        Unit = "coil"
	Boot        Unit = "boot"
	Plug        Unit = "plug"
	Connector   Unit = "connector"
	Seat        Unit = "seat"
	Trigger     Unit = "trigger"
	Injector    Unit = "injector"
	Compression Unit = "compression"
	// Else is a fault that is not in the catalogue.
	Else Unit = "something else"
	// NoFault is an engine that has no fault at present: whatever was seen came
	// and went.
	NoFault Unit = "no fault now"
)

// Robs says what a fault takes away from the charge in its cylinder.
type Robs string

// What a charge can lack.
const (
	Spark   Robs = "spark"
	Fuel    Robs = "fuel"
	Squeeze Robs = "compression"
	Nothing Robs = ""
)

// Mode is one way to fail.
type Mode struct {
	// ID is a stable word that other programs may rely on.
	ID   string `json:"id"`
	Unit Unit   `json:"unit"`
	// Words is the mode as a technician says it.
	Words string `json:"words"`
	// Travels says that the fault belongs to a tagged part and goes where it
	// goes; otherwise it stays with its cylinder.
	Travels bool `json:"travels"`
	// Prior is the share of misfire jobs on one cylinder with this cause, before
	// anything is known; the shares of the catalogue sum to 1.
	Prior float64 `json:"prior"`
	// CuredByTouch is the chance that pulling and refitting the coil at its
	// cylinder cures it, at least for a while: 0 to 1.
	CuredByTouch float64 `json:"cured_by_touch"`
	Robs         Robs    `json:"robs"`
	// Source says where the figures come from.
	Source string `json:"source"`
}

// The ids of the two that are no fault of the catalogue.
const (
	SomethingElse = "something.else"
	NoFaultNow    = "no-fault.now"
)

// Catalogue lists every mode. The shares are judgements of common practice (C)
// for a coil-on-plug engine that misfires on one cylinder: the ignition's wear
// parts come first, then the injector, then the cylinder itself, and the
// control side seldom. They are starting points that evidence soon outweighs;
// they come from no survey.
var Catalogue = []Mode{
	{"coil.breakdown", Coil, "coil breaks down or is weak", true, 0.32, 0, Spark, "C: the commonest single part on coil on plug; judgement"},
	{"boot.leaking", Boot, "boot tracked, torn or swollen", true, 0.09, 0.05, Spark, "C: boots age with oil and heat; judgement"},
	{"plug.worn-gap", Plug, "plug worn, gap wide", true, 0.15, 0, Spark, "C: wear part; judgement"},
	{"plug.cracked", Plug, "plug insulator cracked or tracked", true, 0.06, 0, Spark, "C: dropped or over-torqued; judgement"},
	{"plug.fouled", Plug, "plug fouled or gap closed", true, 0.05, 0, Spark, "C: short trips, rich mixture, a drop; judgement"},
	{"connector.poor-contact", Connector, "coil connector loose or corroded", false, 0.07, 0.6, Spark, "C: often cured for a while by unplugging; judgement"},
	{"seat.not-home", Seat, "coil or boot not pushed home", false, 0.03, 0.8, Spark, "C: after recent work; refitting cures most; judgement"},
	{"trigger.missing", Trigger, "trigger wire or driver", false, 0.02, 0.05, Spark, "C: far rarer than the coil; judgement"},
	{"injector.not-delivering", Injector, "injector does not deliver", false, 0.08, 0, Fuel, "C: next after ignition; judgement"},
	{"compression.low", Compression, "low compression", false, 0.06, 0, Squeeze, "C: valves, rings, gasket; judgement"},
	{SomethingElse, Else, "something that is not in this list", false, 0.04, 0, Nothing, "C: room for what nobody thought of; judgement"},
	{NoFaultNow, NoFault, "no fault at present, or one that comes and goes", false, 0.03, 0, Nothing, "C: a share of complaints never shows in the shop; judgement"},
}

// ElseWholeEngine is how much of the share of "something else" belongs to faults
// that no single cylinder has, such as an air leak at the plenum (C; judgement).
const ElseWholeEngine = 0.5
