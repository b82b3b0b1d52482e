package evidence

import (
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Finding is one result of a look at an item.
type Finding string

// The findings. [Findings] states which apply to which kind of item.
const (
	PlugNormal  Finding = "normal"
	PlugWorn    Finding = "worn"
	PlugCracked Finding = "cracked"
	PlugSoot    Finding = "soot"
	PlugFuel    Finding = "fuel-wet"
	PlugOil     Finding = "oil-wet"
	PlugClosed  Finding = "gap-closed"
	PlugWrong   Finding = "wrong-plug"
	PlugLoose   Finding = "plug-loose"

	BootSound   Finding = "boot-sound"
	BootTracked Finding = "boot-tracked"
	BootTorn    Finding = "boot-torn"
	BootNotHome Finding = "boot-not-home"
	BootSpring  Finding = "boot-spring"
	BootWet     Finding = "boot-well-wet"

	ConnectorSound Finding = "connector-sound"
	ConnectorLoose Finding = "connector-loose"
	ConnectorBad   Finding = "connector-corroded"

	CoilSound   Finding = "coil-sound"
	CoilCracked Finding = "coil-cracked"

	LeadSound   Finding = "lead-sound"
	LeadBurnt   Finding = "lead-burnt"
	LeadNotHome Finding = "lead-not-home"
	LeadWet     Finding = "lead-well-wet"

	CapSound    Finding = "cap-sound"
	CapTracked  Finding = "cap-tracked"
	CapCorroded Finding = "cap-corroded"

	RotorSound Finding = "rotor-sound"
	RotorBurnt Finding = "rotor-burnt"

	CoilLeadSound Finding = "coil-lead-sound"
	CoilLeadBurnt Finding = "coil-lead-burnt"
)

// FindingWords describes one finding on one kind of item.
type FindingWords struct {
	On      engine.Kind
	Finding Finding
	Words   string
	// Short is the label of a button.
	Short string
	// Abnormal is true if a sound item does not show the finding.
	Abnormal bool
}

// Findings lists the findings for each kind of item, the normal one first. They are common
// practice (C).
var Findings = []FindingWords{
	{engine.Plug, PlugNormal, "tan to light grey, even", "normal", false},
	{engine.Plug, PlugWorn, "rounded electrodes, wide gap", "worn", true},
	{engine.Plug, PlugCracked, "cracked, chipped or burnt track on the insulator", "cracked or tracked", true},
	{engine.Plug, PlugSoot, "dry black soot", "sooty", true},
	{engine.Plug, PlugFuel, "wet with fuel", "wet with fuel", true},
	{engine.Plug, PlugOil, "wet with oil at the tip", "wet with oil", true},
	{engine.Plug, PlugClosed, "gap closed or bridged", "gap closed", true},
	{engine.Plug, PlugWrong, "wrong heat range, reach, gap, or a copy", "wrong or a copy", true},
	{engine.Plug, PlugLoose, "loose in its thread, shell sooty", "was loose", true},

	{engine.Boot, BootSound, "sound, spring clean", "sound", false},
	{engine.Boot, BootTracked, "burnt track inside", "tracked", true},
	{engine.Boot, BootTorn, "torn or swollen", "torn or swollen", true},
	{engine.Boot, BootNotHome, "was not pushed home", "not home", true},
	{engine.Boot, BootSpring, "spring burnt, corroded or missing", "spring bad", true},
	{engine.Boot, BootWet, "oil or water in its well", "well wet", true},

	{engine.Connector, ConnectorSound, "clean, latched", "clean", false},
	{engine.Connector, ConnectorLoose, "loose or not latched", "loose", true},
	{engine.Connector, ConnectorBad, "corroded or bent pin", "corroded", true},

	{engine.Coil, CoilSound, "case and tower sound", "sound", false},
	{engine.Coil, CoilCracked, "crack or burnt track on the case or tower", "cracked or tracked", true},

	{engine.Lead, LeadSound, "sound, dry, well routed", "sound", false},
	{engine.Lead, LeadBurnt, "burnt, chafed or tracked", "burnt or tracked", true},
	{engine.Lead, LeadNotHome, "was not pushed home at one end", "not home", true},
	{engine.Lead, LeadWet, "oil or water in the plug well", "well wet", true},

	{engine.Cap, CapSound, "dry and clean inside", "sound", false},
	{engine.Cap, CapTracked, "burnt track between towers", "tracked", true},
	{engine.Cap, CapCorroded, "a tower burnt or corroded", "tower burnt", true},

	{engine.Rotor, RotorSound, "tip and body sound", "sound", false},
	{engine.Rotor, RotorBurnt, "burnt through or tip eaten away", "burnt", true},

	{engine.CoilLead, CoilLeadSound, "sound, home at both ends", "sound", false},
	{engine.CoilLead, CoilLeadBurnt, "burnt, chafed or not home", "burnt or not home", true},
}

var findingsOn = func() map[engine.Kind][]FindingWords {
	m := map[engine.Kind][]FindingWords{}
	for _, row := range Findings {
		m[row.On] = append(m[row.On], row)
	}
	return m
}()

// FindingsOn lists the findings for one kind of item.
func FindingsOn(k engine.Kind) []FindingWords { return slices.Clip(findingsOn[k]) }

// Words returns the finding in words.
func (f Finding) Words() string { return f.row().Words }

// Abnormal reports whether a sound item does not show the finding.
func (f Finding) Abnormal() bool { return f.row().Abnormal }

func (f Finding) row() FindingWords {
	i := slices.IndexFunc(Findings, func(row FindingWords) bool { return row.Finding == f })
	if i < 0 {
		return FindingWords{Words: string(f)}
	}
	return Findings[i]
}

// LookKinds lists the kinds of item of an engine that have findings: its connectors, and the
// parts that can show their fault.
func LookKinds(e engine.Engine) []engine.Kind {
	var kinds []engine.Kind
	for _, item := range e.Items() {
		if len(FindingsOn(item.Kind)) > 0 && !slices.Contains(kinds, item.Kind) {
			kinds = append(kinds, item.Kind)
		}
	}
	return kinds
}

// ParseFinding reads a finding and checks that it applies to the kind of item.
func ParseFinding(k engine.Kind, s string) (Finding, error) {
	var can []string
	for _, row := range FindingsOn(k) {
		if s == string(row.Finding) {
			return row.Finding, nil
		}
		can = append(can, string(row.Finding))
	}
	return "", invalid.Error{Expected: "one of " + strings.Join(can, ", "), Got: invalid.Quote(s)}
}
