package jobs

import (
	"fmt"
	"net/url"
	"strings"

	"glenmist/core/course"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// VerdictView shows the gates, and signs the verdict.
var VerdictView = View{
	Name: "verdict", Title: "Verdict", Tab: "Verdict", Key: "v", Does: "See the gates and sign the verdict",
	Phases: []course.Phase{course.Verdict}, Kind: evidence.KindVerdict,
	Blank: func(_ Loaded, query url.Values) url.Values {
		v := url.Values{}
		for name, values := range query {
			if strings.HasPrefix(name, "set-") && len(name) < 20 {
				v[name] = values
			}
		}
		return v
	},
	Read: func(it Loaded, _ url.Values) (evidence.Entry, invalid.Errors) {
		if it.Plan().Next.Step.ID == plan.FixAndProve && it.Plan().Verdict == nil {
			return evidence.Entry{}, invalid.Errors{{Field: "", Expected: "new evidence since the verdict that stands: nothing has changed", Got: "a signed one"}}
		}
		e, err := it.Plan().Sign()
		return e, invalid.From(err)
	},
	Field: func(Loaded, url.Values, string) string { return "" },
	Model: func(it Loaded, f page.Form) any {
		m := VerdictModel{Offer: it.Plan().Verdict, Gates: it.Plan().Gates, Condemn: plan.Condemn, Lead: it.Plan().Lead.Name(), P: it.Plan().Lead.P}
		if e, ok := it.Record.Job.Signed(); ok && (it.Plan().Next.Step.ID == plan.FixAndProve || m.Offer != nil && m.Offer.Revises > 0) {
			m.Signed, m.Changed = &e, plan.Changes(it.Record.Job.Ledger, *e.Verdict())
			m.Countersigned = it.Record.Job.Ledger.CountersignedBy(e.Seq)
		}
		if m.Offer != nil {
			m.Changes = plan.Changes(it.Record.Job.Ledger, *m.Offer)
		}
		if v := m.Named(); v != nil {
			m.Cause, m.Also = v.Cause, v.Also
			m.Renew = newRenew(it, v.Unit, f.Values)
			for _, u := range v.Cleared {
				if tag := part.Tag(u[strings.LastIndexByte(u, ' ')+1:]); tag.Kind() != "" && strings.HasPrefix(u, string(tag.Kind())) {
					m.Spared = append(m.Spared, evidence.UnitWords(u))
				}
			}
			for _, s := range it.Assessment().Suspects {
				if s.Key() != v.Unit && s.P >= leftOver {
					m.Left = append(m.Left, fmt.Sprintf("%s %s", s.Name(), unit.Percent(s.P)))
				}
			}
		}
		return m
	},
}

// leftOver is the probability from which other suspects are still listed.
const leftOver = 0.01

// VerdictModel holds the verdict that can be signed and those that were signed.
type VerdictModel struct {
	Offer  *evidence.Verdict
	Signed *evidence.Entry
	// Countersigned is who countersigned it, "" if nobody had to.
	Countersigned string
	// Changes lists the differences between the offer and the valid verdict; Changed lists
	// those between the valid one and its predecessor.
	Changes, Changed []string
	Gates            []gate.Gate
	Lead             string
	P                float64
	Condemn          float64
	// Cause is the underlying cause; Also lists what is repaired at the same time.
	Cause string
	Also  []string
	// Spared lists cleared parts that need not be bought; Left lists other possible units.
	Spared, Left []string
	// Renew is the comparison “this one or the set”, or nil without a set.
	Renew *renewView
}

// Named returns the valid verdict or the offer, or nil.
func (m VerdictModel) Named() *evidence.Verdict {
	if m.Signed != nil && m.Offer == nil {
		return m.Signed.Verdict()
	}
	return m.Offer
}

// Idle reports that there is nothing to record.
func (m VerdictModel) Idle() bool { return m.Offer == nil }
