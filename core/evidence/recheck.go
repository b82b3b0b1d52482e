package evidence

import (
	"time"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Day is a date as files write it: "2026-12-14".
type Day string

// DayOf returns the day of a time, in its zone.
func DayOf(t time.Time) Day { return Day(t.Format(time.DateOnly)) }

// Time returns the start of the day in UTC. ok is false if it is no date.
func (d Day) Time() (t time.Time, ok bool) {
	t, err := time.Parse(time.DateOnly, string(d))
	return t, err == nil
}

// Words returns the day in words: "14 Dec 2026".
func (d Day) Words() string {
	t, ok := d.Time()
	if !ok {
		return string(d)
	}
	return t.Format("2 Jan 2006")
}

// Short returns the day without its year: "14 Dec".
func (d Day) Short() string {
	t, ok := d.Time()
	if !ok {
		return string(d)
	}
	return t.Format("2 Jan")
}

// Recheck is a date on which the vehicle is looked at again: because a proof takes days, or a permanent
// code has to go by itself.
type Recheck struct {
	// Due is the date. A later recheck replaces an earlier one; an empty date calls it off.
	Due Day `json:"due,omitzero"`
	// For states what is looked at then.
	For string `json:"for,omitzero"`
}

func (r Recheck) check(engine.Engine, Ledger) error {
	var bad invalid.Errors
	if t, ok := r.Due.Time(); r.Due != "" && (!ok || t.Year() < 2000 || t.Year() > 2100) {
		bad.Add("due", "a date such as 2026-12-14, or none to call the recheck off", invalid.Quote(string(r.Due)))
	}
	bad.Under("", invalid.Text("for", r.For, "what is looked at then", MaxText, true))
	return bad.Err()
}

// KindRecheck is the kind of a [Recheck].
const KindRecheck Kind = "recheck"

func init() { register(KindRecheck, func() Body { return new(Recheck) }) }

// Recheck returns the body of the entry, or nil if it is of another kind.
func (e Entry) Recheck() *Recheck { return body[Recheck](e) }

// Kind returns KindRecheck.
func (Recheck) Kind() Kind { return KindRecheck }

// Sentence returns the date.
func (r Recheck) Sentence() string {
	if r.Due == "" {
		return "recheck called off"
	}
	s := "recheck on " + r.Due.Words()
	if r.For != "" {
		s += ": " + r.For
	}
	return s
}

// DueRecheck returns the recheck that is still to be made. A run on its day or later has made it, and the
// end of the job calls it off.
func (l Ledger) DueRecheck() (Recheck, bool) {
	var due Recheck
	for _, e := range l.InOrder() {
		switch {
		case e.Recheck() != nil:
			due = *e.Recheck()
		case e.Closing() != nil:
			due = Recheck{}
		case (e.Counters() != nil || e.Watch() != nil || e.Codes() != nil) && due.Due != "" && DayOf(e.Done) >= due.Due:
			due = Recheck{}
		}
	}
	return due, due.Due != ""
}
