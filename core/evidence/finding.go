package evidence

import (
	"slices"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/part"
)

// Finding is what a look at one item showed.
type Finding string

// The findings. Which of them fits which item is in [Findings].
const (
	PlugNormal  Finding = "normal"
	PlugWorn    Finding = "worn"
	PlugCracked Finding = "cracked"
	PlugSoot    Finding = "soot"
	PlugFuel    Finding = "fuel-wet"
	PlugOil     Finding = "oil-wet"

	BootSound   Finding = "boot-sound"
	BootTracked Finding = "boot-tracked"
	BootTorn    Finding = "boot-torn"
	BootNotHome Finding = "boot-not-home"

	ConnectorSound Finding = "connector-sound"
	ConnectorLoose Finding = "connector-loose"
	ConnectorBad   Finding = "connector-corroded"
)

// Connector is not a tagged part: it stays with its cylinder.
const Connector part.Kind = "connector"

// FindingWords is one finding on one kind of item, in words.
type FindingWords struct {
	On      part.Kind
	Finding Finding
	Words   string
	// Short is for a button.
	Short string
	// Odd says that the finding is not what a sound item shows.
	Odd bool
}

// Findings lists what can be found on each kind of item, the sound look first.
// The looks are common practice (C).
var Findings = []FindingWords{
	{part.Plug, PlugNormal, "tan to light grey, even", "normal", false},
	{part.Plug, PlugWorn, "rounded electrodes, wide gap", "worn", true},
	{part.Plug, PlugCracked, "cracked, chipped or burnt track on the insulator", "cracked or tracked", true},
	{part.Plug, PlugSoot, "dry black soot", "sooty", true},
	{part.Plug, PlugFuel, "wet with fuel", "wet with fuel", true},
	{part.Plug, PlugOil, "wet with oil at the tip", "wet with oil", true},

	{part.Boot, BootSound, "sound, spring clean", "sound", false},
	{part.Boot, BootTracked, "burnt track inside", "tracked", true},
	{part.Boot, BootTorn, "torn or swollen", "torn or swollen", true},
	{part.Boot, BootNotHome, "was not pushed home", "not home", true},

	{Connector, ConnectorSound, "clean, latched", "clean", false},
	{Connector, ConnectorLoose, "loose or not latched", "loose", true},
	{Connector, ConnectorBad, "corroded or bent pin", "corroded", true},
}

// FindingsOn lists the findings of one kind of item.
func FindingsOn(k part.Kind) []FindingWords {
	var rows []FindingWords
	for _, row := range Findings {
		if row.On == k {
			rows = append(rows, row)
		}
	}
	return rows
}

// Words is the finding in words.
func (f Finding) Words() string { return f.row().Words }

// Odd says that the finding is not what a sound item shows.
func (f Finding) Odd() bool { return f.row().Odd }

func (f Finding) row() FindingWords {
	i := slices.IndexFunc(Findings, func(row FindingWords) bool { return row.Finding == f })
	if i < 0 {
		return FindingWords{Words: string(f)}
	}
	return Findings[i]
}

// ParseFinding reads a finding that fits the kind of item.
func ParseFinding(k part.Kind, s string) (Finding, error) {
	var can []string
	for _, row := range FindingsOn(k) {
		if s == string(row.Finding) {
			return row.Finding, nil
		}
		can = append(can, string(row.Finding))
	}
	return "", invalid.Error{Expected: "one of " + strings.Join(can, ", "), Got: invalid.Quote(s)}
}
