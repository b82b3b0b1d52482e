package evidence

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Countersign makes a provisional verdict stand.
type Countersign struct {
	// Entry is the number of the verdict.
	Entry int `json:"entry"`
}

func (c Countersign) check(_ engine.Engine, before Ledger) error {
	last, ok := before.Provisional()
	if !ok || last.Seq != c.Entry {
		return invalid.Errors{{Field: "entry", Expected: "the verdict that awaits a countersignature", Got: fmt.Sprint(c.Entry)}}
	}
	return nil
}

// KindCountersign is the kind of a [Countersign].
const KindCountersign Kind = "countersign"

func init() { register(KindCountersign, func() Body { return new(Countersign) }) }

// Countersign returns the body of the entry, or nil if it is of another kind.
func (e Entry) Countersign() *Countersign { return body[Countersign](e) }

// Kind returns KindCountersign.
func (Countersign) Kind() Kind { return KindCountersign }

// Sentence returns what is countersigned.
func (c Countersign) Sentence() string {
	return fmt.Sprintf("verdict of entry %d countersigned", c.Entry)
}

// Signed returns the newest verdict that stands: one that is not provisional, or that was countersigned.
func (l Ledger) Signed() (Entry, bool) { return l.verdict(true) }

// Provisional returns the newest verdict if it awaits a countersignature.
func (l Ledger) Provisional() (Entry, bool) { return l.verdict(false) }

func (l Ledger) verdict(stands bool) (Entry, bool) {
	live := l.InOrder()
	countersigned := map[int]bool{}
	for _, e := range live {
		if c := e.Countersign(); c != nil {
			countersigned[c.Entry] = true
		}
	}
	for i := len(live) - 1; i >= 0; i-- {
		v := live[i].Verdict()
		if v == nil {
			continue
		}
		if standing := !v.Provisional || countersigned[live[i].Seq]; standing == stands {
			return live[i], true
		} else if standing {
			return Entry{}, false // a newer one stands
		}
	}
	return Entry{}, false
}

// CountersignedBy returns the name of who countersigned a verdict, or "".
func (l Ledger) CountersignedBy(seq int) string {
	for _, e := range l.InOrder() {
		if c := e.Countersign(); c != nil && c.Entry == seq {
			return e.By
		}
	}
	return ""
}
