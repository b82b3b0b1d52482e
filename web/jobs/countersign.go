package jobs

import (
	"fmt"
	"net/url"

	"glenmist/core/course"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
	"glenmist/core/unit"
	"glenmist/people"
	"glenmist/web/page"
)

// CountersignView makes the verdict of an apprentice stand.
var CountersignView = View{
	Name: "countersign", Title: "Countersign", Tab: "Countersign", Key: "O", Does: "Countersign the verdict of an apprentice",
	Phases: []course.Phase{course.Verdict}, Kind: evidence.KindCountersign, Aside: true, Needs: people.Countersign,
	Blank: func(Loaded, url.Values) url.Values { return url.Values{} },
	Read: func(it Loaded, _ url.Values) (evidence.Entry, invalid.Errors) {
		e, ok := it.Record.Job.Ledger.Provisional()
		if !ok {
			return evidence.Entry{}, invalid.Errors{{Expected: "a verdict that awaits a countersignature", Got: "none"}}
		}
		return evidence.Entry{Body: &evidence.Countersign{Entry: e.Seq}}, nil
	},
	Field: func(Loaded, url.Values, string) string { return "" },
	Model: func(it Loaded, _ page.Form) any {
		m := countersignModel{}
		e, ok := it.Record.Job.Ledger.Provisional()
		if !ok {
			return m
		}
		m.Of = &e
		if now := plan.SignedNow(it.Assessment(), *e.Verdict()); now < plan.Condemn && now < e.Verdict().P-driftLeast {
			m.Drift = fmt.Sprintf("It was signed at %s; the evidence as it stands now gives %s.", unit.Percent(e.Verdict().P), unit.Percent(now))
		}
		return m
	},
}

// countersignModel holds the verdict that awaits a countersignature.
type countersignModel struct {
	Of *evidence.Entry
	// Drift warns if the evidence no longer supports it.
	Drift string
}

// Idle reports that there is nothing to record.
func (m countersignModel) Idle() bool { return m.Of == nil }

// Proposed returns the verdict that awaits a countersignature, or nil.
func (p Page) Proposed() *evidence.Entry {
	if e, ok := p.Job.Ledger.Provisional(); ok {
		return &e
	}
	return nil
}

// MayCountersign reports whether who sees the page may countersign.
func (p Page) MayCountersign() bool { return p.Who.May(people.Countersign) }
