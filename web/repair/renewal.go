package repair

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/catalogue"
	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/unit"
	"glenmist/core/worksheet"
	"glenmist/store"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// RenewalView records which parts were renewed, by what, and what becomes of the old ones.
var RenewalView = jobs.View{
	Name: "renewal", Title: "Parts that were renewed", Tab: "Renewed", Key: "R", Does: "Record parts that were renewed",
	Phases: []course.Phase{course.Fix}, Kind: evidence.KindRenewal,
	Blank: func(it jobs.Loaded, _ url.Values) url.Values {
		v := url.Values{"cleared": {"yes"}}
		for i, t := range suggested(it) {
			n := strconv.Itoa(i + 1)
			v.Set("slot-"+n, slotKey(t.kind, t.place))
			v.Set("fate-"+n, string(evidence.Scrapped))
			if t.number != "" {
				v.Set("number-"+n, t.number)
			}
			if t.on {
				v.Set("on-"+n, "yes")
			}
		}
		return v
	},
	Read: func(it jobs.Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		return readRenewal(it, typed, nil)
	},
	Field: func(it jobs.Loaded, typed url.Values, path string) string { return renewalField(it, typed, path) },
	Model: func(it jobs.Loaded, f page.Form) any { return newRenewalModel(it, f) },
	More: func(s *jobs.Pages, r *http.Request, _ jobs.Loaded, model any) (any, error) {
		m := model.(*renewalModel)
		items, err := s.Jobs.Catalogue(r.Context())
		if err != nil {
			return nil, err
		}
		stock, err := s.Jobs.Stock(r.Context())
		if err != nil {
			return nil, err
		}
		m.complete(items, stock)
		return m, nil
	},
}

// slotOf is a part that can be renewed, as the form suggests it.
type slotOf struct {
	kind  part.Kind
	place engine.Place
	on    bool
	// number is that of the part that comes off, as a proposal.
	number string
}

func slotKey(k part.Kind, at engine.Place) string { return evidence.UnitKey(k, at) }

// suggested lists the parts of the verdict or of the planned work first, and one empty line for another.
func suggested(it jobs.Loaded) (all []slotOf) {
	now := it.Assessment().Now
	if sheet, ok := worksheet.Of(worksheet.Case{Job: it.Record.Job}); ok {
		for _, l := range sheet.Parts {
			if !now.Renewed(l.Out) {
				all = append(all, slotOf{l.Kind, l.Place, true, l.Number})
			}
		}
		for _, also := range sheet.Also {
			place := now.Where(also.Tag)
			if !also.On && place != engine.Bench && !now.Renewed(also.Tag) {
				all = append(all, slotOf{also.Tag.Kind(), place, false, ""})
			}
		}
	}
	return all
}

// renewalModel is what the template shows besides the form.
type renewalModel struct {
	it    jobs.Loaded
	Rows  []renewalRow
	Fates []page.Choice
	// Scanned is true if the engine has codes to clear.
	Scanned bool
	// Numbers lists part numbers of the catalogue, as suggestions.
	Numbers []page.Choice
	// Several warns that two units are renewed at once.
	Several bool
	Stock   []store.Spare
}

// renewalRow is one line of the form.
type renewalRow struct {
	N     string
	Slots []page.Choice
	Words string // of the part that comes off
	// Ins lists what can go on.
	Ins []page.Choice
	// Chosen is the kind of part of the line, "" for an empty one.
	Chosen part.Kind
	place  engine.Place
}

func newRenewalModel(it jobs.Loaded, f page.Form) *renewalModel {
	m := &renewalModel{it: it, Scanned: it.Assessment().Engine.Scanned()}
	for _, row := range evidence.Fates {
		m.Fates = append(m.Fates, page.Choice{Value: string(row.Fate), Words: row.Words})
	}
	slots := part.Slots(it.Assessment().Engine)
	rows := 0
	for i := 1; i <= evidence.MaxMoved; i++ {
		if f.Get("slot-"+strconv.Itoa(i)) != "" {
			rows = i
		}
	}
	on := map[string]bool{}
	for i := 1; i <= min(rows+1, evidence.MaxMoved); i++ {
		n := strconv.Itoa(i)
		row := renewalRow{N: n}
		for _, s := range slots {
			key := slotKey(s.Kind, s.Place)
			row.Slots = append(row.Slots, page.Choice{Value: key, Words: unit.Capital(fmt.Sprintf("%s of %s", s.Kind, s.Place))})
			if key == f.Get("slot-"+n) {
				row.Chosen, row.place = s.Kind, s.Place
			}
		}
		if row.Chosen != "" {
			out := it.Assessment().Now.Off(row.Chosen, row.place)
			row.Words = out.Words()
			if f.Get("on-"+n) != "" {
				on[unitOf(it, out)] = true
			}
		}
		m.Rows = append(m.Rows, row)
	}
	_, signed := it.Record.Job.Signed()
	m.Several = signed && len(on) > 1
	return m
}

// unitOf names the unit that a part is renewed as: the unit of the verdict for what was found with it.
func unitOf(it jobs.Loaded, out part.Tag) string {
	if signed, ok := it.Record.Job.Signed(); ok {
		v := signed.Verdict()
		if slices.Contains(append([]string{v.Unit}, v.With...), out.Words()) {
			return v.Unit
		}
	}
	return out.Words()
}

// complete adds what the workshop has: numbers of its catalogue, and tested spares.
func (m *renewalModel) complete(items []catalogue.Item, stock []store.Spare) {
	kinds := m.it.Assessment().Engine.PartKinds()
	for _, i := range items {
		if slices.Contains(kinds, i.Kind) && i.For(m.it.Record.Job.Vehicle.Fleet) {
			m.Numbers = append(m.Numbers, page.Choice{Value: i.Number, Words: string(i.Kind)})
		}
	}
	now := m.it.Assessment().Now
	for k := range m.Rows {
		row := &m.Rows[k]
		row.Ins = []page.Choice{{Value: "new", Words: "a new part"}}
		if row.Chosen == "" {
			continue
		}
		if sits := now.In(row.Chosen, row.place); sits.IsSpare() {
			row.Ins = append(row.Ins, page.Choice{Value: string(sits), Words: "the spare that is fitted, " + string(sits)})
		}
		for _, s := range stock {
			if s.Kind == row.Chosen {
				words := "tested spare " + s.Name
				if s.Known.Number != "" {
					words += " (" + s.Known.Number + ")"
				}
				row.Ins = append(row.Ins, page.Choice{Value: "stock:" + s.Name, Words: words})
			}
		}
	}
	for _, s := range stock {
		if slices.Contains(kinds, s.Kind) {
			m.Stock = append(m.Stock, s)
		}
	}
}

// shelf is what the workshop has that a renewal can take.
type shelf struct {
	items []catalogue.Item
	stock []store.Spare
}

// readRenewal reads the form. have is nil where the store was not asked.
func readRenewal(it jobs.Loaded, typed url.Values, have *shelf) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	r := &evidence.Renewal{Cleared: typed.Get("cleared") != "" || !it.Assessment().Engine.Scanned()}
	now := it.Assessment().Now
	taken := map[string]bool{}
	for _, n := range renewalRows(typed) {
		kind, place, ok := parseSlot(it, typed.Get("slot-"+n))
		if !ok {
			bad.Add("slot-"+n, "a part of this engine", invalid.Quote(typed.Get("slot-"+n)))
			continue
		}
		if key := slotKey(kind, place); taken[key] {
			bad.Add("slot-"+n, "each part once", key+" again")
			continue
		}
		taken[slotKey(kind, place)] = true
		one := evidence.Renewed{Place: place, Out: now.Off(kind, place), Fate: evidence.Fate(typed.Get("fate-" + n))}
		one.Number = strings.TrimSpace(typed.Get("number-" + n))
		in, free := now.Free(kind, place)
		if !free {
			bad.Add("slot-"+n, fmt.Sprintf("at most %d new parts at one place in a job: open a new job", part.MaxRenewed), "one more")
			continue
		}
		one.In = in
		switch with := typed.Get("with-" + n); {
		case with == "" || with == "new":
		case strings.HasPrefix(with, "stock:"):
			one.From = strings.TrimPrefix(with, "stock:")
			bad = append(bad, have.take(&one, kind, "with-"+n)...)
		default:
			one.In = part.Tag(with)
		}
		if text := strings.TrimSpace(typed.Get("price-" + n)); text != "" {
			price, ok := unit.Figure(text)
			if !ok || price < 0 {
				bad.Add("price-"+n, "a price, such as 12.50", invalid.Quote(text))
			}
			one.Price = price
		}
		bad = append(bad, have.design(it, &one, kind, typed.Get("anyway-"+n) != "", "number-"+n)...)
		r.Parts = append(r.Parts, one)
	}
	if len(r.Parts) == 0 && len(bad) == 0 {
		bad.Add("slot-1", "at least one part that was renewed: tick it", "none")
	}
	return evidence.Entry{Body: r}, bad
}

// take checks a part of the stock, and takes over what is known of it.
func (s *shelf) take(one *evidence.Renewed, k part.Kind, field string) (bad invalid.Errors) {
	if s == nil {
		return nil
	}
	i := slices.IndexFunc(s.stock, func(have store.Spare) bool { return have.Name == one.From && have.Kind == k })
	if i < 0 {
		bad.Add(field, "a tested spare that the workshop still has", invalid.Quote(one.From))
		return bad
	}
	number := one.Number
	one.Make = s.stock[i].Known.Make()
	if number != "" {
		one.Number = number
	}
	return bad
}

// design takes the design of a part from the catalogue, and refuses one that does not fit its place.
func (s *shelf) design(it jobs.Loaded, one *evidence.Renewed, k part.Kind, anyway bool, field string) (bad invalid.Errors) {
	if s == nil {
		return nil
	}
	j := it.Record.Job
	if i := slices.IndexFunc(s.items, func(i catalogue.Item) bool { return i.Kind == k && i.Number == one.Number && one.Number != "" }); i >= 0 {
		one.Make = s.items[i].Make
		if one.Price == 0 {
			one.Price = s.items[i].Price
		}
	}
	old, ok := part.For(j.Vehicle.Parts, k, one.Out.Home())
	if !ok || anyway {
		return nil
	}
	differ, _ := part.Compare(k, old.Make(), one.Make)
	for _, d := range differ {
		if d.Grave {
			bad.Add(field, fmt.Sprintf("a part that fits its place, or the tick that the maker lists it all the same: %s", d.Judged), d.Words)
			break
		}
	}
	return bad
}

// renewalRows lists the numbers of the ticked rows, in order.
func renewalRows(typed url.Values) (rows []string) {
	for i := 1; i <= evidence.MaxMoved; i++ {
		if n := strconv.Itoa(i); typed.Get("on-"+n) != "" {
			rows = append(rows, n)
		}
	}
	return rows
}

func parseSlot(it jobs.Loaded, key string) (part.Kind, engine.Place, bool) {
	for _, s := range part.Slots(it.Assessment().Engine) {
		if slotKey(s.Kind, s.Place) == key {
			return s.Kind, s.Place, true
		}
	}
	return "", "", false
}

// renewalField returns the form field of a path such as "renewal.parts[1].price".
func renewalField(_ jobs.Loaded, typed url.Values, path string) string {
	rows := renewalRows(typed)
	_, rest, ok := strings.Cut(path, "parts[")
	index, last, ok2 := strings.Cut(rest, "]")
	i, err := strconv.Atoi(index)
	if !ok || !ok2 || err != nil || i >= len(rows) {
		return "slot-1"
	}
	switch name := strings.TrimPrefix(last, "."); name {
	case "price", "fate", "number":
		return name + "-" + rows[i]
	case "in", "from":
		return "with-" + rows[i]
	case "out", "place":
		return "slot-" + rows[i]
	}
	return "number-" + rows[i]
}

// PostRenewal records the renewal. The workshop's catalogue and stock are read first.
func (s *Pages) PostRenewal(w http.ResponseWriter, r *http.Request) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	typed := r.PostForm
	have := &shelf{}
	var err error
	if have.items, err = s.Jobs.Catalogue(r.Context()); err == nil {
		have.stock, err = s.Jobs.Stock(r.Context())
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	v := RenewalView
	v.Read = func(it jobs.Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		return readRenewal(it, typed, have)
	}
	if typed.Get("do") == "more" { // another line, nothing is recorded
		s.ShowForm(w, r, http.StatusOK, it, RenewalView, page.NewForm(typed, nil, page.SameName))
		return
	}
	s.PostForm(w, r, it, v)
}
