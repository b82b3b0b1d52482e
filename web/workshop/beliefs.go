package workshop

import (
	"net/http"
	"slices"
	"strings"

	"glenmist/core/knowledge"
	"glenmist/web/page"
)

// beliefsPage shows every figure that the reasoning uses, each with its source.
type beliefsPage struct {
	page.Base
	Query  string
	Tables []beliefTable
	Found  int
	All    int
}

type beliefTable struct {
	Name string
	Rows []beliefRow
}

// beliefRow is one row of a table, in words.
type beliefRow struct {
	Of, Says, Source string
	// Row is the row's name where a workshop can put its own in its place, and Ours
	// what it has put there.
	Row, Ours string
}

// matches reports whether the row of a table holds all of some words, some of them in the table's name.
func (r beliefRow) matches(table string, words []string) bool {
	text := strings.ToLower(table + " " + r.Of + " " + r.Says + " " + r.Source + " " + r.Ours)
	return !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, w) })
}

// Beliefs shows the tables, or the rows of them that hold all the words searched for.
func (s *Pages) Beliefs(w http.ResponseWriter, r *http.Request) {
	query := r.URL.Query()
	_ = page.BadText(query)
	p := beliefsPage{Base: s.Base(r, "What Glenmist believes"), Query: query.Get("q")}
	if len(p.Query) > 100 {
		p.Query = strings.ToValidUTF8(p.Query[:100], "")
	}
	set, _, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	words := strings.Fields(strings.ToLower(p.Query))
	for _, t := range knowledge.Tables() {
		found := beliefTable{Name: t.Name()}
		for _, r := range t.Rows() {
			row := beliefRow{r.Of, r.Says, r.Source, r.ID, ""}
			p.All++
			if o, own := set.Own(row.Row); own && row.Row != "" {
				row.Ours = ownWords(r, o)
			}
			if row.matches(t.Name(), words) {
				found.Rows = append(found.Rows, row)
				p.Found++
			}
		}
		if len(found.Rows) > 0 {
			p.Tables = append(p.Tables, found)
		}
	}
	s.Render(w, r, http.StatusOK, "beliefs.html", p)
}
