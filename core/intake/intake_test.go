package intake

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"glenmist/core/evidence"
)

// The words of drivers state conditions and circumstances (common practice: the table of
// complaints in the trade).
func TestComplaintsAreRead(t *testing.T) {
	for complaint, want := range map[string]string{
		"Stumbles on wet mornings":                   "wet, cold",
		"Misses since the plugs were done":           "plugs were touched lately",
		"Shakes at idle, lamp on since Tuesday":      "at idle, lamp on, steady",
		"Light shake at the lights. No lamp.":        "at idle, lamp off, only felt",
		"Lamp flashes uphill; lamp on otherwise":     "under load, lamp flashing",
		"Runs rough all the time":                    "always, in every condition alike",
		"Dies when hot, long since it was looked at": "hot, long since a service",
		"Kicked a kerb, then it jerked":              "after a jolt, hard start, jerks, dull or thirsty",
		"SHAKES IN THE RAIN":                         "wet",
		"The hotel's trainer was told to unload it":  "",
		"": "",
	} {
		var got []string
		for _, p := range Read(complaint) {
			got = append(got, p.Words())
		}
		if strings.Join(got, ", ") != want {
			t.Errorf("%q proposes %q, want %q", complaint, strings.Join(got, ", "), want)
		}
	}
}

// Every condition and every circumstance that a form offers can be proposed, once.
func TestEveryConditionAndSignHasWords(t *testing.T) {
	var missing []string
	for _, c := range evidence.Conditions {
		if c.Condition != evidence.AnyCondition && !slices.ContainsFunc(rows, func(r row) bool { return r.condition == c.Condition }) {
			missing = append(missing, string(c.Condition))
		}
	}
	for _, s := range evidence.Signs {
		if !slices.ContainsFunc(rows, func(r row) bool { return r.sign == s.Sign }) {
			missing = append(missing, string(s.Sign))
		}
	}
	if missing != nil {
		t.Errorf("no words for %v", missing)
	}
}

func ExampleRead() {
	for _, p := range Read("Stumbles on wet mornings") {
		fmt.Println(p.Words(), "from", p.By)
	}
	// Output:
	// wet from wet
	// cold from mornings
}

func FuzzRead(f *testing.F) {
	f.Add("Stumbles on wet mornings")
	f.Fuzz(func(t *testing.T, complaint string) {
		lamps := 0
		for _, p := range Read(complaint) {
			if (p.Condition == "") == (p.Sign == "") || p.By == "" || !strings.Contains(complaint, p.By) && strings.ToValidUTF8(complaint, "") == complaint {
				t.Errorf("%q gives %+v", complaint, p)
			}
			if slices.Contains(lamp, p.Sign) {
				lamps++
			}
		}
		if lamps > 1 {
			t.Errorf("%q states %d lamps", complaint, lamps)
		}
	})
}
