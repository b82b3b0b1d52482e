// Package forbid states which findings forbid turning the engine, and which bans hold in a job.
package forbid

import (
	"fmt"

	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// Ban is a finding that forbids running and cranking the engine until it is lifted.
type Ban struct {
	Of evidence.Hazard
	// Tag is the part on which it was found, "" for the engine; Entry is the number of the finding's entry.
	Tag   part.Tag
	Entry int
	// Because states the finding in words, Lifts what ends the ban.
	Because, Lifts string
}

// key is what a ban is lifted by: the same danger on the same part.
type key struct {
	of  evidence.Hazard
	tag part.Tag
}

// Of lists the bans that hold after some moments, the oldest first. A ban comes from a danger that was
// recorded, from a hammered tip among the looks, and from an old plug whose reach is not that of the listed
// one. It is lifted by an entry alone that states what was done: a new plug alone does not look into the
// cylinder.
func Of(moments []evidence.Moment) (bans []Ban) {
	at := map[key]int{}
	add := func(h evidence.Hazard, tag part.Tag, seq int) {
		if _, there := at[key{h, tag}]; there {
			return
		}
		words, _, lifts, _ := evidence.FindHazard(h)
		if tag != "" {
			words = fmt.Sprintf("%s: %s", tag.Words(), words)
		}
		at[key{h, tag}] = len(bans)
		bans = append(bans, Ban{h, tag, seq, words, lifts})
	}
	for _, m := range moments {
		e := m.Entry
		switch {
		case e.Danger() != nil && e.Danger().Over:
			k := key{e.Danger().Of, e.Danger().Tag}
			if i, there := at[k]; there {
				bans[i].Of = "" // lifted
				delete(at, k)
			}
		case e.Danger() != nil:
			add(e.Danger().Of, e.Danger().Tag, e.Seq)
		case e.Look() != nil:
			for _, item := range e.Look().Items {
				if item.Plug.Edges == plug.Bruised {
					add(evidence.HammeredTip, item.Tag, e.Seq)
				}
			}
		case e.Beside() != nil:
			if b := e.Beside(); b.Listed == "new" && b.Old.ReachMM > 0 && b.New.ReachMM > 0 && b.Old.ReachMM != b.New.ReachMM {
				add(evidence.WrongReach, b.Tag, e.Seq)
			}
		}
	}
	held := bans[:0]
	for _, b := range bans {
		if b.Of != "" {
			held = append(held, b)
		}
	}
	return held
}
