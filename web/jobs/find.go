package jobs

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"glenmist/core/calc"
	"glenmist/core/course"
	"glenmist/core/unit"
	"glenmist/store"
	"glenmist/web/page"
)

// findPage lists what a search found.
type findPage struct {
	page.Base
	Q      string
	Action string
	Groups []findGroup
	// More is true if there were more than mostFound.
	More bool
}

// findGroup is what was found of one sort.
type findGroup struct {
	Name  string
	Items []findItem
}

// findItem is one thing that can be found. Its words are searched.
type findItem struct{ Words, Href string }

// Bounds of a search.
const (
	mostFound = 40
	mostJobs  = 12
	mostTyped = 200 // bytes
)

// helpTopics lists the sections of the help.
var helpTopics = []findItem{
	{"How a job goes", "/help#job"}, {"Keys", "/help#keys"}, {"People, shared tablets, deleting", "/help#people"}, {"How sure is sure", "/help#sure"}, {"The engine and its parts", "/help#engine"},
	{"What Glenmist believes, and why", "/help#beliefs"}, {"The next step, and its sums", "/help#next"}, {"Sparks, readings and captures", "/help#readings"},
	{"The old plugs", "/help#plugs"}, {"A verdict, and a second one", "/help#verdict"}, {"Coil connectors", "/help#connectors"},
	{"Where practitioners disagree", "/help#schools"},
}

// Find searches tools, cylinders, parts, entries, jobs, calculators and help. On the address of a
// job it searches that job too.
func (s *Pages) Find(w http.ResponseWriter, r *http.Request) {
	query := r.URL.Query()
	_ = page.BadText(query)
	q := query.Get("q")
	p := findPage{Base: s.Base(r, "Find"), Q: strings.ToValidUTF8(q[:min(len(q), mostTyped)], ""), Action: "/find"}
	var all []findGroup
	if chi.URLParam(r, "id") != "" {
		it, ok := s.Load(w, r)
		if !ok {
			return
		}
		p.Action = "/jobs/" + url.PathEscape(it.Record.Job.Number) + "/find"
		all = s.inJob(it)
	}
	list, _, err := s.Jobs.Find(r.Context(), store.Query{Words: p.Q})
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	var others, sums []findItem
	for _, one := range list {
		others = append(others, findItem{fmt.Sprintf("%s %s, %s: %s", one.Job.Vehicle.Fleet, one.Job.Vehicle.What, one.Job.Number, one.Status.Words), "/jobs/" + url.PathEscape(one.Job.Number)})
	}
	for _, c := range calc.Calculators {
		sums = append(sums, findItem{c.Title, "/calc/" + c.Name})
	}
	all = append(all, findGroup{"Calculators", sums}, findGroup{"Help", helpTopics})
	p.Groups, p.More = search(all, p.Q)
	if len(others) > 0 { // they hold the words, perhaps in their ledger
		p.More = p.More || len(others) > mostJobs
		own := slices.IndexFunc(p.Groups, func(g findGroup) bool { return g.Name == "Calculators" || g.Name == "Help" })
		if own < 0 {
			own = len(p.Groups)
		}
		p.Groups = slices.Insert(p.Groups, own, findGroup{"Jobs", others[:min(len(others), mostJobs)]})
	}
	s.Render(w, r, http.StatusOK, "find.html", p)
}

// inJob lists what can be found in a job.
func (s *Pages) inJob(it Loaded) []findGroup {
	j, a := it.Record.Job, it.Assessment()
	at := "/jobs/" + url.PathEscape(j.Number)
	tools := []findItem{{"Next step", at}, {"What if: preview the ranking under each outcome of a step", at + "/what-if"}, {"Finding and record", at + "/finding"}, {"Labels for the parts", at + "/labels"}}
	for _, t := range s.tools(a.Engine, at, func(View) bool { return true }) {
		tools = append(tools, findItem{t.Name + ": " + t.Does, t.Href})
	}
	for _, phase := range course.Phases() {
		tools = append(tools, findItem{"Phase " + phase.Words(), at + "/" + string(phase)})
	}
	var parts, entries []findItem
	for _, c := range a.Engine.All() {
		parts = append(parts, findItem{fmt.Sprintf("Cylinder %d", c), fmt.Sprintf("%s?cyl=%d", at, c)})
	}
	for _, p := range a.Now.All() {
		href := at + "/parts"
		if feeds := a.Now.Feeds(p.Tag); len(feeds) > 0 {
			href = fmt.Sprintf("%s?cyl=%d", at, feeds[0])
		}
		parts = append(parts, findItem{unit.Capital(p.Tag.Words()) + ", " + p.At.String(), href})
	}
	for _, e := range j.Ledger {
		entries = append(entries, findItem{fmt.Sprintf("Entry %d: %s", e.Seq, e.Words()), fmt.Sprintf("%s?all=ledger#entry-%d", at, e.Seq)})
	}
	return []findGroup{{"Tools", tools}, {"Cylinders and parts", parts}, {"Entries", entries}}
}

// search keeps the items that hold every word of a query, at most mostFound.
func search(all []findGroup, q string) (found []findGroup, more bool) {
	words := strings.Fields(strings.ToLower(q))
	left := mostFound
	for _, g := range all {
		kept := findGroup{Name: g.Name}
		for _, item := range g.Items {
			text := strings.ToLower(item.Words)
			holds := true
			for _, w := range words {
				holds = holds && strings.Contains(text, w)
			}
			if !holds {
				continue
			}
			if left == 0 {
				more = true
				break
			}
			left--
			kept.Items = append(kept.Items, item)
		}
		if kept.Items != nil {
			found = append(found, kept)
		}
	}
	return found, more
}
