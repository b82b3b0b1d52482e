package calc

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/trouble"
)

// sure is the confidence of the bounds: 95 %.
const sure = 0.95

// misfire is what counts say.
var misfire = []Calculator{
	{
		Name: "misfire-rate", Title: "How often does it misfire?",
		Inputs: []Input{
			{Name: "count", Words: "Misfires counted on the cylinder", Unit: "", Example: "23", read: number("a whole count from 0 to 1 500 000", 0, 1_500_000)},
			{Name: "revolutions", Words: "Revolutions watched", Unit: "rev", Example: "5 min at 600 rpm", read: revolutions},
		},
		Formula: "opportunities = revolutions / 2; rate = count / opportunities",
		Source:  "definition: a four-stroke cylinder fires once in two revolutions",
		Limits:  "four-stroke engines; a lone count or two is no evidence",
		run: func(in inputs) ([]Result, error) {
			due := math.Floor(in.figure["revolutions"] / 2)
			if in.figure["count"] > due || in.figure["count"] != math.Trunc(in.figure["count"]) {
				return nil, invalid.Errors{{Field: "count", Expected: fmt.Sprintf("a whole count, at most the %.0f times it was due to fire", due), Got: fmt.Sprint(in.figure["count"])}}
			}
			return []Result{{Name: "opportunities", Value: due, Unit: ""}, {Name: "rate", Value: 100 * in.figure["count"] / due, Unit: "%"}}, nil
		},
	},
	{
		Name: "clean-run", Title: "How long must it run clean?",
		Inputs: []Input{
			{Name: "rate", Words: "Misfire rate to rule out", Unit: "%", Example: "0.1", read: number("a rate above 0 and below 100 %", 1e-4, 99.99)},
			{Name: "speed", Words: "Engine speed", Unit: "rpm", Example: "600", read: number("a speed from 100 to 15 000 rpm", 100, 15_000)},
		},
		Formula: "events = ln(1 − 0.95) / ln(1 − rate), rounded up; minutes = events · 2 / speed",
		Source:  "zero events in n trials; rule of three: Hanley and Lippman-Hand, JAMA 1983 (from memory)",
		Limits:  "assumes independent events; misfires come in bursts, so run more than once, in the condition where it failed",
		run: func(in inputs) ([]Result, error) {
			n := TrialsToRuleOut(in.figure["rate"] / 100)
			return []Result{{Name: "events", Value: n, Unit: ""}, {Name: "revolutions", Value: 2 * n, Unit: "rev"}, {Name: "minutes", Value: 2 * n / in.figure["speed"], Unit: "min"}}, nil
		},
	},
	{
		Name: "rate-bound", Title: "What does a clean run prove?",
		Inputs: []Input{
			{Name: "revolutions", Words: "Revolutions without a misfire", Unit: "rev", Example: "3000", read: revolutions},
		},
		Formula: "upper bound = 1 − 0.05^(1/n), n = revolutions / 2",
		Source:  "zero events in n trials; rule of three: Hanley and Lippman-Hand, JAMA 1983 (from memory)",
		Limits:  "assumes independent events; valid only for the conditions that were run",
		run: func(in inputs) ([]Result, error) {
			n := math.Floor(in.figure["revolutions"] / 2)
			return []Result{{Name: "events", Value: n, Unit: ""}, {Name: "upper bound", Value: 100 * UpperBound(n), Unit: "%"}}, nil
		},
	},
	{
		Name: "misfire-percentage", Title: "The regulatory misfire percentage",
		Inputs: []Input{
			{Name: "counts", Words: "Counts of all cylinders", Example: "0 12 1 0"},
			{Name: "revolutions", Words: "Revolutions of the block", Unit: "rev", Example: "1000", read: revolutions},
		},
		Formula: "percentage = 100 · all counts / (revolutions / 2 · cylinders)",
		Source:  "13 CCR 1968.2(e)(3) (from memory): blocks of 200 revolutions for the catalyst, 1000 for emissions; thresholds not below 5 % and 1 %",
		Limits:  "four-stroke engines; the maker's own thresholds lie higher, by speed and load",
		run: func(in inputs) ([]Result, error) {
			fields := strings.FieldsFunc(in.text["counts"], func(r rune) bool { return r == ' ' || r == ';' || r == '\t' })
			due, all := math.Floor(in.figure["revolutions"]/2), 0.0
			read := whole("a whole count", 0, due)
			if len(fields) < 1 || len(fields) > engine.MaxCylinders {
				return nil, at("counts", invalid.Error{Expected: fmt.Sprintf("one count for each of 1 to %d cylinders, such as 0 12 1 0", engine.MaxCylinders), Got: fmt.Sprint(len(fields))})
			}
			for _, f := range fields {
				n, err := read(f)
				if err != nil {
					return nil, at("counts", err)
				}
				all += n
			}
			share := 100 * all / (due * float64(len(fields)))
			over := func(limit float64) string {
				if share >= limit {
					return fmt.Sprintf("at or over %g %%", limit)
				}
				return fmt.Sprintf("under %g %%", limit)
			}
			return []Result{{Name: "misfires", Value: all}, {Name: "opportunities", Value: due * float64(len(fields))}, {Name: "percentage", Value: share, Unit: "%"},
				{Name: "against the least catalyst threshold", Text: over(trouble.CatalystThreshold)}, {Name: "against the least emissions threshold", Text: over(trouble.EmissionsThreshold)}}, nil
		},
	},
}

// UpperBound is the 95 % upper bound of a rate of which no event was seen in n
// trials, n at least 1: exactly 1 − 0.05^(1/n), about 3/n.
func UpperBound(n float64) float64 { return -math.Expm1(math.Log(1-sure) / n) }

// TrialsToRuleOut is how many trials without an event show with 95 % that the
// rate is below p, 0 < p < 1.
func TrialsToRuleOut(p float64) float64 { return math.Ceil(math.Log(1-sure) / math.Log1p(-p)) }
