package report

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"os"
	"slices"
	"strings"
	"testing"

	"glenmist/core/casefile"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/plan"
)

func example(t *testing.T, name string) job.Job {
	t.Helper()
	f, err := os.Open("../../docs/formats/examples/" + name + ".json")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = f.Close() }()
	j, err := casefile.Read(f)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

// The three answers of the trade to one exchange of coils.
func TestExamples(t *testing.T) {
	for name, want := range map[string]struct {
		next     string
		lead     string
		most     float64 // the lead may have
		least    float64
		verdict  bool
		cleared  string
		openGate bool
	}{
		"followed": {plan.LookPlugBoot, "C4", 1, 0.95, false, "P4", true},
		"stayed":   {"", "P1", 0.9, 0.35, false, "C1", true},
		"gone":     {"", "C3", 0.6, 0.1, false, "", true},
	} {
		r := Of(example(t, name))
		lead := r.Suspects[0]
		if lead.Tag != want.lead || lead.P < want.least || lead.P > want.most {
			t.Errorf("%s: first suspect %s %s at %v", name, lead.Part, lead.Tag, lead.P)
		}
		if want.next != "" && r.Next.Step != want.next {
			t.Errorf("%s: next %s, want %s", name, r.Next.Step, want.next)
		}
		if (r.Verdict != nil) != want.verdict {
			t.Errorf("%s: verdict %+v", name, r.Verdict)
		}
		for _, s := range r.Suspects {
			if s.Tag == want.cleared && want.cleared != "" && s.P > plan.RuledOut {
				t.Errorf("%s: %s still at %v", name, s.Tag, s.P)
			}
		}
		if open := slices.ContainsFunc(r.Gates, func(g Gate) bool { return !g.Met }); open != want.openGate {
			t.Errorf("%s: gates %+v", name, r.Gates)
		}
	}
}

// The names and shapes that other programs rely on.
func TestNamesThatOtherProgramsRelyOn(t *testing.T) {
	r := Of(example(t, "stayed"))
	data, err := json.Marshal(r)
	if err != nil {
		t.Fatal(err)
	}
	if strings.Contains(string(data), "null,") && !strings.Contains(string(data), `"verdict":null`) {
		t.Errorf("a list is null in %s", data)
	}
	var shape map[string]any
	if err := json.Unmarshal(data, &shape); err != nil {
		t.Fatal(err)
	}
	keys := func(v any) string {
		if list, ok := v.([]any); ok {
			v = list[0]
		}
		return strings.Join(slices.Sorted(maps.Keys(v.(map[string]any))), " ")
	}
	for where, want := range map[string]string{
		"":             "alternatives cautions contradictions forbidden gates hypotheses job next permanent phase proof suspects verdict version",
		"suspects":     "fault p part place reasons tag",
		"hypotheses":   "faults p",
		"next":         "cautions minutes outcomes partner step target why",
		"alternatives": "extra_cost step target",
		"gates":        "met needs target",
	} {
		v := any(shape)
		if where != "" {
			v = shape[where]
		}
		if got := keys(v); got != want {
			t.Errorf("%q has the names %s, want %s", where, got, want)
		}
	}
	reason := shape["suspects"].([]any)[0].(map[string]any)["reasons"]
	if got := keys(reason); got != "entry log_odds text" {
		t.Errorf("a reason has the names %s", got)
	}
	if got := keys(shape["next"].(map[string]any)["outcomes"]); got != "means outcome p" {
		t.Errorf("an outcome has the names %s", got)
	}
}

func TestHypothesesSumToOne(t *testing.T) {
	ids := map[string]bool{}
	for _, m := range fault.Catalogue {
		ids[string(m.ID)] = true
	}
	for _, name := range []string{"followed", "stayed", "gone"} {
		r := Of(example(t, name))
		sum, suspects := 0.0, 0.0
		for _, h := range r.Hypotheses {
			sum += h.P
			for _, f := range h.Faults {
				if id, _, _ := strings.Cut(f, "@"); !ids[id] && f != OtherPairs {
					t.Errorf("%s: %q is no fault of the catalogue", name, f)
				}
			}
		}
		for _, s := range r.Suspects {
			suspects += s.P
		}
		if math.Abs(sum-1) > 1e-9 || suspects < 1-1e-9 || suspects > 2 {
			t.Errorf("%s: hypotheses sum to %v, suspects to %v", name, sum, suspects)
		}
	}
}

// What a run after an exchange of coils says, from the case file to the next step.
func ExampleOf() {
	f, err := os.Open("../../docs/formats/examples/followed.json")
	if err != nil {
		fmt.Println(err)
		return
	}
	defer func() { _ = f.Close() }()
	j, err := casefile.Read(f)
	if err != nil {
		fmt.Println(err)
		return
	}
	r := Of(j)
	fmt.Println("first suspect:", r.Suspects[0].Part, r.Suspects[0].Tag)
	fmt.Println("next:", r.Next.Step, "on", r.Next.Target)
	for _, g := range r.Gates {
		fmt.Println(g.Met, g.Needs)
	}
	// Output:
	// first suspect: coil C4
	// next: look.plug-and-boot on plug P4 and boot B4
	// true the misfire follows coil C4 to another place, or a clear open or short, or no spark with feed, ground and trigger proven
	// false a look at plug P4, which it fired while it failed (a wide gap overworks a coil)
	// false a look at boot B4
}
