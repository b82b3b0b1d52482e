package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/invalid"
	"glenmist/core/plan"
	"glenmist/core/shop"
	"glenmist/store"
)

// shopPage is what the workshop sets for itself.
type shopPage struct {
	base
	Form  form
	Tools []toolChoice
	Rows  []ownRow
	Saved bool
	Stale bool
}

type toolChoice struct {
	ID, Name, For string
	Here          bool
}

type ownRow struct{ Row, Of, Words, Href string }

func (s *server) showShop(w http.ResponseWriter, r *http.Request) {
	set, version, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.failStore(w, r, err)
		return
	}
	v := url.Values{"rate": {fmt.Sprint(set.HourlyRate)}, "wrong": {fmt.Sprint(set.WrongVerdict)}, "version": {strconv.Itoa(version)}}
	for _, tool := range shop.Tools() {
		if !slices.Contains(set.Missing, tool) {
			v.Add("tool", tool)
		}
	}
	page := s.shopPage(r, set, newForm(v, nil, same))
	page.Saved = r.URL.Query().Get("saved") != ""
	s.render(w, r, http.StatusOK, "shop.html", page)
}

func (s *server) shopPage(r *http.Request, set shop.Settings, f form) shopPage {
	p := shopPage{base: s.base(r, "Workshop"), Form: f}
	for i, tool := range shop.Tools() {
		var steps []string
		for _, step := range plan.Steps {
			if slices.Contains(step.Tools, tool) {
				steps = append(steps, strings.ToLower(step.Words[:1])+step.Words[1:])
			}
		}
		p.Tools = append(p.Tools, toolChoice{fmt.Sprintf("tool%d", i), tool, strings.Join(steps, ", "), slices.Contains(f.Values["tool"], tool)})
	}
	for _, o := range set.Rows {
		p.Rows = append(p.Rows, ownRow{o.Row, rowWords(o.Row), ownWords(o), "/shop/row?" + url.Values{"row": {o.Row}}.Encode()})
	}
	return p
}

// posted parses a form for the workshop's settings, and reads them as they are.
func (s *server) posted(w http.ResponseWriter, r *http.Request) (set shop.Settings, version int, ok bool) {
	if err := r.ParseForm(); err != nil {
		s.failForm(w, r, err)
		return set, 0, false
	}
	set, version, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.failStore(w, r, err)
	}
	return set, version, err == nil
}

func (s *server) saveShop(w http.ResponseWriter, r *http.Request) {
	set, version, ok := s.posted(w, r)
	if !ok {
		return
	}
	v := r.PostForm
	bad := badText(v)
	number := func(field, name, expected string) float64 {
		x, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(v.Get(name)), ",", "."), 64)
		if err != nil {
			bad.Add(field, expected, invalid.Quote(v.Get(name)))
		}
		return x
	}
	set.HourlyRate = number("hourly_rate", "rate", "what an hour of work costs, such as 60")
	set.WrongVerdict = number("wrong_verdict_minutes", "wrong", "minutes, such as 240")
	set.Missing = nil
	for _, tool := range shop.Tools() {
		if !slices.Contains(v["tool"], tool) {
			set.Missing = append(set.Missing, tool)
		}
	}
	if len(bad) == 0 {
		bad = invalid.From(set.Validate())
	}
	again := func(code int, stale bool) {
		f := newForm(v, bad, func(path string) string {
			return map[string]string{"hourly_rate": "rate", "wrong_verdict_minutes": "wrong", "missing": "tool"}[path]
		})
		f.Set("version", strconv.Itoa(version))
		page := s.shopPage(r, set, f)
		page.Stale = stale
		s.render(w, r, code, "shop.html", page)
	}
	switch {
	case len(bad) > 0:
		again(http.StatusUnprocessableEntity, false)
		return
	case v.Get("version") != strconv.Itoa(version):
		again(http.StatusConflict, true)
		return
	}
	switch err := s.Jobs.SetShop(r.Context(), set, version); {
	case errors.Is(err, store.ErrStale):
		again(http.StatusConflict, true)
	case err != nil:
		s.failStore(w, r, err)
	default:
		http.Redirect(w, r, "/shop?saved=yes", http.StatusSeeOther)
	}
}

// rowPage puts the workshop's own figures in place of a row.
type rowPage struct {
	base
	Form    form
	Row, Of string
	// Ships is what the row says as it ships, with its source.
	Ships, Source string
	Fields        []rowValue
	Own           bool
}

type rowValue struct{ Name, Words, Ships string }

// fieldsOfRow lists the figures of a row: a factor, minutes, a price, a range, or chances in per cent.
func fieldsOfRow(row string) (fields []rowValue, percent bool) {
	add := func(words string, ships float64) {
		fields = append(fields, rowValue{fmt.Sprintf("value%d", len(fields)), words, strconv.FormatFloat(ships, 'g', 4, 64)})
	}
	for _, l := range diagnose.Looks {
		if l.RowID() == row {
			for i, f := range evidence.FindingsOn(l.On) {
				add(f.Words+", %", 100*l.Chance[i])
			}
			return fields, true
		}
	}
	for _, c := range diagnose.CheckRows {
		if c.RowID() == row {
			t, _ := evidence.FindTest(c.Test)
			for i, result := range t.Results {
				add(result.Words+", %", 100*c.Chance[i])
			}
			return fields, true
		}
	}
	for _, s := range diagnose.Severities {
		if s.RowID() == row {
			for i, words := range diagnose.BandWords {
				add(words+", %", 100*s.Shares[i])
			}
			return fields, true
		}
	}
	for _, m := range diagnose.Manners {
		if m.RowID() == row {
			for i, when := range diagnose.WhenOrder {
				add("Fails "+when.Words()+", %", 100*m.When[i])
			}
			for i, of := range []string{"slight", "middling", "dead"} {
				add("Said to be always there if "+of+", %", 100*m.Always[i])
			}
			return fields, true
		}
	}
	for _, t := range diagnose.Thumbs {
		if t.RowID() == row {
			add("At least", t.Range.Low)
			add("At most", t.Range.High)
		}
	}
	for _, r := range plan.Repairs {
		if r.RowID() == row {
			add("Minutes", r.Minutes)
			add("Price of new parts", r.Price)
		}
	}
	table, id, _ := strings.Cut(row, ":")
	if table == "fault" && slices.ContainsFunc(fault.Catalogue, func(m fault.Mode) bool { return m.ID == id }) {
		add("Times as often as stated", 1)
	}
	if i := slices.IndexFunc(plan.Steps, func(s plan.Step) bool { return s.ID == id }); table == "step" && i >= 0 {
		add("Minutes", plan.Steps[i].Minutes)
	}
	return fields, false
}

// rowWords is what a row is of.
func rowWords(row string) string {
	if b, ok := findBelief(row); ok {
		return b.Of
	}
	return row
}

func findBelief(row string) (beliefRow, bool) {
	for _, t := range allBeliefs {
		for _, b := range t.Rows {
			if b.Row == row && row != "" {
				return b, true
			}
		}
	}
	return beliefRow{}, false
}

// ownWords says what a workshop has put in place of a row, and why.
func ownWords(o diagnose.Override) string {
	fields, percent := fieldsOfRow(o.Row)
	var words []string
	for i, f := range fields {
		if i >= len(o.Values) {
			break
		}
		if percent {
			words = append(words, fmt.Sprintf("%s %.3g %%", strings.TrimSuffix(f.Words, ", %"), 100*o.Values[i]))
		} else {
			words = append(words, fmt.Sprintf("%s: %g", f.Words, o.Values[i]))
		}
	}
	return fmt.Sprintf("Ours: %s. %s (%s, %s)", strings.Join(words, ", "), o.Reason, o.By, o.On.Format("2 Jan 2006"))
}

func (s *server) rowPage(r *http.Request, row string, f form, own bool) (rowPage, bool) {
	b, ok := findBelief(row)
	fields, _ := fieldsOfRow(row)
	return rowPage{base: s.base(r, "Our own row"), Form: f, Row: row, Of: b.Of, Ships: b.Says, Source: b.Source, Fields: fields, Own: own}, ok && len(fields) > 0
}

func (s *server) showRow(w http.ResponseWriter, r *http.Request) {
	set, version, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.failStore(w, r, err)
		return
	}
	query := r.URL.Query()
	_ = badText(query)
	row := query.Get("row")
	fields, percent := fieldsOfRow(row)
	v := url.Values{"version": {strconv.Itoa(version)}, "by": {s.base(r, "").Hand}}
	o, own := set.Own(row)
	for i, f := range fields {
		v.Set(f.Name, f.Ships)
		if own && i < len(o.Values) {
			x := o.Values[i]
			if percent {
				x *= 100
			}
			v.Set(f.Name, strconv.FormatFloat(x, 'g', 4, 64))
		}
	}
	if own {
		v.Set("reason", o.Reason)
		v.Set("by", o.By)
	}
	page, ok := s.rowPage(r, row, newForm(v, nil, same), own)
	if !ok {
		s.notFound(w, r)
		return
	}
	s.render(w, r, http.StatusOK, "row.html", page)
}

func (s *server) saveRow(w http.ResponseWriter, r *http.Request) {
	set, version, ok := s.posted(w, r)
	if !ok {
		return
	}
	v := r.PostForm
	row := v.Get("row")
	_, own := set.Own(row)
	bad := badText(v)
	next := set.Without(row)
	if v.Get("reset") == "" {
		o := diagnose.Override{Row: row, Reason: strings.TrimSpace(v.Get("reason")), By: strings.TrimSpace(v.Get("by")), On: s.Now().UTC().Truncate(time.Second)}
		fields, percent := fieldsOfRow(row)
		for _, f := range fields {
			x, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(v.Get(f.Name)), ",", "."), 64)
			if err != nil {
				bad.Add(f.Name, "a number", invalid.Quote(v.Get(f.Name)))
			}
			if percent {
				x /= 100
			}
			o.Values = append(o.Values, x)
		}
		next = set.With(o)
	}
	if len(bad) == 0 {
		bad = invalid.From(next.Validate())
	}
	var err error
	if len(bad) == 0 && v.Get("version") != strconv.Itoa(version) {
		err = store.ErrStale
	} else if len(bad) == 0 {
		err = s.Jobs.SetShop(r.Context(), next, version)
	}
	code := http.StatusUnprocessableEntity
	switch {
	case errors.Is(err, store.ErrStale):
		code = http.StatusConflict
		bad.Add("", "the workshop's settings as you read them: somebody changed them; check, then send again", "newer ones")
	case err != nil:
		s.failStore(w, r, err)
		return
	case len(bad) == 0:
		s.remember(w, "hand", strings.TrimSpace(v.Get("by")))
		http.Redirect(w, r, "/shop?saved=yes", http.StatusSeeOther)
		return
	}
	f := newForm(v, bad, func(path string) string {
		_, last, _ := strings.Cut(path, "].")
		switch last {
		case "values":
			return "value0"
		case "reason", "by":
			return last
		}
		return path
	})
	f.Set("version", strconv.Itoa(version))
	page, ok := s.rowPage(r, row, f, own)
	if !ok {
		s.notFound(w, r)
		return
	}
	s.render(w, r, code, "row.html", page)
}
