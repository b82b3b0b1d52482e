// Package learn moves the prior shares of repair units by what the workshop has seen. The shares of one
// ignition layout are a Dirichlet distribution; each closed, attributed job adds one to its unit.
package learn

import (
	"glenmist/core/engine"
	"glenmist/core/fault"
)

// Strength is how many jobs the shipped shares count for (C; judgement). With n jobs seen, the shop's own
// share weighs n / (Strength + n).
const Strength = 200

// Count is how many closed, attributed jobs had a unit at fault on a layout.
type Count struct {
	Layout engine.Ignition `json:"layout"`
	Unit   fault.Unit      `json:"unit"`
	Jobs   int             `json:"jobs"`
}

// Seen is what the workshop has seen.
type Seen []Count

// Row is one repair unit of a layout: its share as shipped, the jobs seen, and the share that is used.
type Row struct {
	Unit          fault.Unit
	Shipped, Used float64
	Jobs          int
}

// Rows lists the units of a layout in the order of the catalogue. A unit's share is the mean of the
// Dirichlet distribution, (Strength × shipped + jobs) / (Strength + all jobs of the layout). The modes of a
// unit keep their proportions, since a verdict names a unit.
func Rows(layout engine.Ignition, seen Seen) (rows []Row) {
	at := map[fault.Unit]int{}
	total := 0.0
	for i, l := range engine.Ignitions() {
		if l != layout {
			continue
		}
		for _, m := range fault.Catalogue {
			if m.Prior[i] == 0 {
				continue
			}
			k, ok := at[m.Unit]
			if !ok {
				k = len(rows)
				at[m.Unit] = k
				rows = append(rows, Row{Unit: m.Unit})
			}
			rows[k].Shipped += m.Prior[i]
			total += m.Prior[i]
		}
	}
	all := 0
	for _, c := range seen {
		if k, ok := at[c.Unit]; ok && c.Layout == layout {
			rows[k].Jobs += c.Jobs
			all += c.Jobs
		}
	}
	for k := range rows {
		rows[k].Shipped /= total
		rows[k].Used = (Strength*rows[k].Shipped + float64(rows[k].Jobs)) / float64(Strength+all)
	}
	return rows
}

// Factors returns by how much the shares of a layout's units change; nil for a layout without jobs.
func Factors(layout engine.Ignition, seen Seen) map[fault.Unit]float64 {
	factors, some := map[fault.Unit]float64{}, false
	for _, r := range Rows(layout, seen) {
		factors[r.Unit] = r.Used / r.Shipped
		some = some || r.Jobs > 0
	}
	if !some {
		return nil
	}
	return factors
}
