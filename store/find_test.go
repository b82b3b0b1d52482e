package store_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/trouble"
	"glenmist/people"
	"glenmist/store"
)

// Jobs are found by words of any length, by state, layout, code and person, in each order, page by page.
func TestFind(t *testing.T) {
	s, _ := fresh(t)
	j := demoJobs(t)[0]
	open := func(fleet, what, complaint, by string, day int, entries ...evidence.Entry) string {
		t.Helper()
		one := j
		one.Number, one.Ledger, one.Complaint, one.By = "", nil, complaint, by
		one.Planned, one.Worksheet = nil, nil
		one.Vehicle.Fleet, one.Vehicle.What, one.Opened = fleet, what, moment.AddDate(0, 0, day)
		for _, e := range entries {
			e.Done, e.By = one.Opened, by
			var err error
			if one.Ledger, err = one.Ledger.Add(one.Vehicle.Engine, e); err != nil {
				t.Fatal(err)
			}
		}
		number, err := s.Open(t.Context(), one)
		if err != nil {
			t.Fatal(err)
		}
		return number
	}
	codes := evidence.Entry{Note: "50%_off at the pump", Body: &evidence.Codes{Read: []trouble.Reading{{Code: 0x0302, State: trouble.Stored}}}}
	a := open("B-20", "midi bus", "jerks uphill", "Wyn Fellgarth", 1, codes)
	b := open("B-03", "post van", "shakes at idle", "Ada Moss", 2)
	c := open("A-11", "rescue truck", "jerks when wet", "Ada Moss", 3)
	first := listed(t, s, c)
	for name, q := range map[string]struct {
		store.Query
		want []string
	}{
		"all":                      {store.Query{}, []string{c, b, a}},
		"oldest":                   {store.Query{Sort: store.OldestFirst}, []string{a, b, c}},
		"by vehicle":               {store.Query{Sort: store.ByVehicle}, []string{c, b, a}},
		"a part of a word":         {store.Query{Words: "erks"}, []string{c, a}},
		"two words, any case":      {store.Query{Words: "WET jerks"}, []string{c}},
		"words of a short word":    {store.Query{Words: "a"}, []string{c, b, a}},
		"the beginning of a word":  {store.Query{Words: "po"}, []string{b}},
		"its number":               {store.Query{Words: b}, []string{b}},
		"a note":                   {store.Query{Words: "50%_off"}, []string{a}},
		"no pattern":               {store.Query{Words: "jer%up"}, nil},
		"a code":                   {store.Query{Code: "P0302"}, []string{a}},
		"half a code":              {store.Query{Code: "P030"}, nil},
		"a person":                 {store.Query{Person: "Ada Moss"}, []string{c, b}},
		"part of a person":         {store.Query{Person: "ada"}, []string{c, b}},
		"mine":                     {store.Query{Mine: "Ada Moss"}, []string{c, b}},
		"mine, of half a name":     {store.Query{Mine: "Ada"}, nil},
		"its vehicle":              {store.Query{Fleet: "B-03"}, []string{b}},
		"half a vehicle":           {store.Query{Fleet: "B-0"}, nil},
		"its state":                {store.Query{State: first.Status.State, Words: "truck"}, []string{c}},
		"another state":            {store.Query{State: "closed"}, nil},
		"its layout":               {store.Query{Layout: string(j.Vehicle.Engine.Ignition)}, []string{c, b, a}},
		"another layout":           {store.Query{Layout: "none"}, nil},
		"a verdict on a part":      {store.Query{Kind: "coil"}, nil},
		"due":                      {store.Query{Due: "2030-01-01"}, nil},
		"signs of a query's words": {store.Query{Words: `' & ! : * ( ) \`}, nil},
	} {
		list, next, err := s.Find(t.Context(), q.Query)
		if got := numbers(list); err != nil || next != "" || !slices.Equal(got, q.want) {
			t.Errorf("%s: %v, next %q, %v; want %v", name, got, next, err, q.want)
		}
	}
	// A vehicle of another name is found by it at once if its job is open.
	v := first.Job.Vehicle
	v.What = "crane lorry"
	if _, err := s.SaveVehicle(t.Context(), v, 0); err != nil {
		t.Fatal(err)
	}
	if list, _, err := s.Find(t.Context(), store.Query{Words: "crane"}); err != nil || !slices.Equal(numbers(list), []string{c}) {
		t.Errorf("renamed: %v, %v", numbers(list), err)
	}
}

// listed returns a job of a list.
func listed(t *testing.T, s *store.Store, number string) store.Summary {
	t.Helper()
	list, _, err := s.Find(t.Context(), store.Query{Words: number})
	if err != nil || len(list) != 1 {
		t.Fatalf("%d jobs, %v", len(list), err)
	}
	return list[0]
}

func numbers(list []store.Summary) (all []string) {
	for _, one := range list {
		all = append(all, one.Job.Number)
	}
	return all
}

// Each page goes on where the one before ended, in every order, also when jobs are opened meanwhile; no job is on two pages.
func TestPagesGoOnByPlace(t *testing.T) {
	s, _ := fresh(t)
	j := demoJobs(t)[0]
	for i := range store.Page + 20 {
		j.Number, j.Opened = "", moment.Add(time.Duration(i/3)*time.Minute) // some at the same time
		j.Vehicle.Fleet = []string{"B-1", "B-2", "A-1"}[i%3]
		if _, err := s.Open(t.Context(), j); err != nil {
			t.Fatal(err)
		}
	}
	for _, sort := range []store.Sort{store.NewestFirst, store.OldestFirst, store.ByVehicle} {
		all, err := s.FindAll(t.Context(), store.Query{Sort: sort})
		if err != nil {
			t.Fatal(err)
		}
		one, next, err1 := s.Find(t.Context(), store.Query{Sort: sort})
		two, end, err2 := s.Find(t.Context(), store.Query{Sort: sort, After: next})
		if got := append(numbers(one), numbers(two)...); errors.Join(err1, err2) != nil || end != "" || !slices.Equal(got, numbers(all)) {
			t.Errorf("%q: %d and %d jobs of %d, end %q, %v %v", sort, len(one), len(two), len(all), end, err1, err2)
		}
	}
	// Words that all have fill the page from the newest; the next page goes on by the index.
	all, err := s.FindAll(t.Context(), store.Query{Words: "B-1"})
	one, next, err1 := s.Find(t.Context(), store.Query{Words: j.Vehicle.What + " " + j.By[:3]})
	two, _, err2 := s.Find(t.Context(), store.Query{Words: j.Vehicle.What + " " + j.By[:3], After: next})
	if errors.Join(err, err1, err2) != nil || len(all) != 24 || len(one) != store.Page || len(two) != 20 || slices.ContainsFunc(numbers(two), func(n string) bool { return slices.Contains(numbers(one), n) }) {
		t.Errorf("%d of B-1, %d and %d of all: %v %v %v", len(all), len(one), len(two), err, err1, err2)
	}
	for _, place := range []store.Place{"x", "eA", store.Place(strings.Repeat("A", 40))} {
		if _, _, err := s.Find(t.Context(), store.Query{After: place}); err == nil {
			t.Errorf("%q is a place", place)
		} else if _, ok := errors.AsType[invalid.Error](err); !ok {
			t.Errorf("%q: %v", place, err)
		}
	}
}

// Searches that a person keeps are theirs alone, by name, and bounded.
func TestSearchesAreKept(t *testing.T) {
	s, _ := fresh(t)
	var ids [2]int64
	for i, name := range []string{"Oda", "Wyn"} {
		p, err := s.AddPerson(t.Context(), name, people.Technician, "")
		if err != nil {
			t.Fatal(err)
		}
		ids[i] = p.ID
	}
	for i := range store.MaxSearches + 1 {
		err := s.KeepSearch(t.Context(), store.Search{PersonID: ids[0], Name: fmt.Sprintf("no. %02d", i), Query: "state=new"})
		if full := err != nil; full != (i == store.MaxSearches) {
			t.Errorf("search %d: %v", i, err)
		}
	}
	if err := s.KeepSearch(t.Context(), store.Search{PersonID: ids[0], Name: "no. 03", Query: "state=proven"}); err != nil {
		t.Error(err)
	}
	if err := s.DropSearch(t.Context(), ids[0], "no. 00"); err != nil {
		t.Error(err)
	}
	own, err := s.Searches(t.Context(), ids[0])
	other, err2 := s.Searches(t.Context(), ids[1])
	if err := errors.Join(err, err2); err != nil || len(own) != store.MaxSearches-1 || own[2].Query != "state=proven" || len(other) != 0 {
		t.Errorf("%v and %v, %v", own, other, err)
	}
	if err := s.KeepSearch(t.Context(), store.Search{PersonID: ids[0], Name: ""}); err == nil {
		t.Error("kept without a name")
	}
}

// Whether a job came back is looked up by an index, however many jobs there are.
func TestCameBackUsesItsIndex(t *testing.T) {
	_, db := fresh(t)
	conn, err := db.Conn(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close() }()
	if _, err := conn.ExecContext(t.Context(), "set enable_seqscan = off"); err != nil { // small tables are read whole
		t.Fatal(err)
	}
	var plan string
	err = conn.QueryRowContext(t.Context(), "explain (format json) select exists ("+store.CameBack+") from jobs j where j.id = 1").Scan(&plan)
	if err != nil || !strings.Contains(plan, "jobs_that_came_back") {
		t.Errorf("%v: %s", err, plan)
	}
}
