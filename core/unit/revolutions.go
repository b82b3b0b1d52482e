package unit

import (
	"math"
	"regexp"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// Revolutions is a number of crankshaft revolutions.
type Revolutions int

// MaxRevolutions bounds one run: a day at 2000 rpm.
const MaxRevolutions Revolutions = 3_000_000

// Opportunities returns how often one cylinder of a four-stroke engine fires: once in two
// revolutions (definition).
func (r Revolutions) Opportunities() int { return int(r) / 2 }

var minutesAtSpeed = regexp.MustCompile(`^([0-9.]+) ?(?:min|minutes?|m) ?(?:at|@|x|×) ?([0-9.]+) ?(?:rpm|/min|1/min)?$`)

// ParseRevolutions reads a number of revolutions ("3000", "3 000 rev") or a time at a speed
// ("5 min at 600 rpm"). At least two revolutions are needed.
func ParseRevolutions(s string) (Revolutions, error) {
	bad := invalid.Error{Expected: "revolutions watched, from 2 to 3 000 000, such as 3000 or 5 min at 600 rpm", Got: invalid.Quote(s)}
	text := strings.ToLower(strings.Join(strings.Fields(s), " "))
	v := math.NaN()
	if m := minutesAtSpeed.FindStringSubmatch(ungroupKeepSpaces(text)); m != nil {
		minutes, err1 := strconv.ParseFloat(m[1], 64)
		speed, err2 := strconv.ParseFloat(m[2], 64)
		if err1 == nil && err2 == nil {
			v = minutes * speed
		}
	} else {
		for _, suffix := range []string{"revolutions", "revs", "rev"} {
			text = strings.TrimSuffix(text, suffix)
		}
		if n, err := strconv.ParseFloat(ungroup(text), 64); err == nil {
			v = n
		}
	}
	if math.IsNaN(v) || v < 2 || v > float64(MaxRevolutions) {
		return 0, bad
	}
	return Revolutions(math.Round(v)), nil
}

func ungroupKeepSpaces(s string) string { return strings.ReplaceAll(s, ",", "") }
