package workshop

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
	for _, table := range knowledge.Tables() {
		for _, r := range table.Rows() {
			if r.ID == "" {
				continue
			}
			of, _, _ := strings.Cut(r.ID, ":")
			tables[of]++
			fields := rowValues(r)
			o := knowledge.Override{Row: r.ID, Reason: "as it ships", By: "Wyn"}
			for _, f := range fields {
				x, err := strconv.ParseFloat(f.Ships, 64)
				if err != nil {
					t.Errorf("%s ships as %q", r.ID, f.Ships)
				}
				o.Values = append(o.Values, f.as.Kept(x))
			}
			if err := shop.Default().With(o).Validate(); err != nil {
				t.Errorf("%s: %v", r.ID, err)
			}
		}
	}
	if len(tables) != 17 {
		t.Errorf("own rows in %v", tables)
	}
}
