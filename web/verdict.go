package web

import (
	"net/url"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
)

var verdictView = view{
	name: "verdict", title: "Verdict", tab: "Verdict", key: "v", does: "See the gates and sign the verdict",
	blank: func(_ seen, query url.Values) url.Values {
		v := url.Values{}
		for name, values := range query {
			if strings.HasPrefix(name, "set-") && len(name) < 20 {
				v[name] = values
			}
		}
		return v
	},
	read: func(it seen, _ url.Values) (evidence.Entry, invalid.Errors) {
		if it.plan.Next.Step.ID == plan.FixAndProve {
			return evidence.Entry{}, invalid.Errors{{Field: "", Expected: "a job without a verdict: withdraw the one that stands first", Got: "a signed one"}}
		}
		e, err := it.plan.Sign()
		return e, invalid.From(err)
	},
	field: func(seen, url.Values, string) string { return "" },
	model: func(it seen, f form) any {
		m := verdictModel{Offer: it.plan.Verdict, Gates: it.plan.Gates, Condemn: plan.Condemn, Lead: it.plan.Lead.Name(), P: it.plan.Lead.P}
		if e, ok := it.rec.Job.Signed(); ok && it.plan.Next.Step.ID == plan.FixAndProve {
			m.Signed = &e
		}
		if u := m.namedUnit(); u != "" {
			m.Renew = newRenew(it, u, f.Values)
		}
		return m
	},
}

type verdictModel struct {
	Offer   *evidence.Verdict
	Signed  *evidence.Entry
	Gates   []plan.Gate
	Lead    string
	P       float64
	Condemn float64
	// Renew is “this one or the set”, nil where there is no set.
	Renew *renewView
}
