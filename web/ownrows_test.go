package web

import (
	"strconv"
	"strings"
	"testing"

	"glenmist/core/knowledge"
	"glenmist/core/shop"
)

// Every row that can be a workshop's own has figures to fill in, and takes those that ship.
func TestEveryOwnRow(t *testing.T) {
	tables := map[string]int{}
	for _, table := range allBeliefs {
		for _, b := range table.Rows {
			if b.Row == "" {
				continue
			}
			of, _, _ := strings.Cut(b.Row, ":")
			tables[of]++
			fields := fieldsOfRow(b.Row)
			o := knowledge.Override{Row: b.Row, Reason: "as it ships", By: "Wyn"}
			for _, f := range fields {
				x, err := strconv.ParseFloat(f.Ships, 64)
				if err != nil {
					t.Errorf("%s ships as %q", b.Row, f.Ships)
				}
				o.Values = append(o.Values, f.kept(x))
			}
			if err := shop.Default().With(o).Validate(); err != nil {
				t.Errorf("%s: %v", b.Row, err)
			}
		}
	}
	if len(tables) != 14 {
		t.Errorf("own rows in %v", tables)
	}
}
