// Package intake reads a complaint. It proposes the running condition and the circumstances that
// the driver's words state. Nothing is applied without a technician's consent.
package intake

import (
	"regexp"
	"slices"
	"strings"

	"glenmist/core/evidence"
)

// Proposal is one thing that a complaint states. Exactly one of Condition and Sign is set.
type Proposal struct {
	Condition evidence.Condition
	Sign      evidence.Sign
	// By is the part of the complaint that states it.
	By string
}

// Words returns what is proposed, as it is written in a sentence.
func (p Proposal) Words() string {
	if p.Condition != evidence.AnyCondition {
		return p.Condition.Words()
	}
	return p.Sign.Words()
}

// MostRead bounds the bytes of a complaint that are read.
const MostRead = 4000

// row maps words to what they state. In a pattern "~" stands for the rest of a word.
type row struct {
	condition evidence.Condition
	sign      evidence.Sign
	words     []string
}

// rows lists the words of drivers and technicians (C; judgement). Of the lamp the first row that
// matches counts.
var rows = []row{
	{condition: evidence.Wet, words: []string{"wet", "rain~", "damp~", "fog~", "mist~", "drizzle", "wash~", "puddle~", "ford~"}},
	{condition: evidence.Cold, words: []string{"cold", "morning~", "frost~", "first minute~", "first mile~", "overnight"}},
	{condition: evidence.Hot, words: []string{"hot", "warmed up", "when warm", "once warm", "heat"}},
	{condition: evidence.Load, words: []string{"load", "uphill", "hill~", "climb~", "boost~", "accelerat~", "overtak~", "motorway", "tow~", "on a pull", "full throttle"}},
	{condition: evidence.Idle, words: []string{"idle~", "idling", "at the lights", "standing still", "stationary", "ticking over"}},
	{condition: evidence.Snap, words: []string{"blip~", "snap throttle"}},
	{sign: evidence.AlwaysThere, words: []string{"always", "all the time", "constant~"}},
	{sign: evidence.LampFlashing, words: []string{"lamp flash~", "light flash~", "flashing lamp", "flashing light", "lamp blink~", "light blink~"}},
	{sign: evidence.LampOff, words: []string{"no lamp", "lamp off", "no light", "light off", "without a lamp"}},
	{sign: evidence.LampSteady, words: []string{"lamp on", "light on", "lamp came on", "light came on", "lamp comes on", "light comes on", "engine lamp", "engine light", "lamp steady"}},
	{sign: evidence.TouchedPlugs, words: []string{"since the plugs", "after the plugs", "new plugs", "plugs were done", "plugs were renewed", "plugs were changed"}},
	{sign: evidence.TouchedCoils, words: []string{"since the coil~", "after the coil~", "new coil~", "coil~ were renewed", "coil~ was renewed", "coil was changed"}},
	{sign: evidence.TouchedLeads, words: []string{"since the lead~", "after the lead~", "new lead~", "leads were renewed", "leads were changed"}},
	{sign: evidence.TouchedIntake, words: []string{"intake was off", "intake off", "manifold was off", "plenum was off"}},
	{sign: evidence.AfterService, words: []string{"since the service", "after the service", "since a service", "after a service", "just serviced", "since it was serviced"}},
	{sign: evidence.LongSince, words: []string{"long since", "never serviced", "overdue", "no service"}},
	{sign: evidence.AfterJolt, words: []string{"jolt~", "pothole~", "kerb~", "bump~"}},
	{sign: evidence.SomebodyHere, words: []string{"missing screw~", "missing bolt~", "another workshop", "spliced"}},
	{sign: evidence.HardStart, words: []string{"hard start~", "hard to start", "starts badly", "will not start", "jerk~", "thirst~", "uses more fuel"}},
}

// patterns holds an expression for each row.
var patterns = func() (all []*regexp.Regexp) {
	for _, r := range rows {
		var words []string
		for _, w := range r.words {
			words = append(words, strings.ReplaceAll(regexp.QuoteMeta(w), "~", `\pL*`))
		}
		all = append(all, regexp.MustCompile(`(?i)(?:^|\PL)(`+strings.Join(words, "|")+`)(?:\PL|$)`))
	}
	return all
}()

var lamp = []evidence.Sign{evidence.LampFlashing, evidence.LampOff, evidence.LampSteady}

// Read lists what a complaint states, in the order of the table. It reads at most [MostRead] bytes.
func Read(complaint string) (all []Proposal) {
	complaint = strings.ToValidUTF8(complaint[:min(len(complaint), MostRead)], " ")
	lit := false
	for i, r := range rows {
		found := patterns[i].FindStringSubmatch(complaint)
		isLamp := slices.Contains(lamp, r.sign)
		if found == nil || isLamp && lit {
			continue
		}
		lit = lit || isLamp
		all = append(all, Proposal{Condition: r.condition, Sign: r.sign, By: found[1]})
	}
	return all
}
