package web

import (
	"errors"
	"fmt"
	"iter"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/invalid"
	"glenmist/core/knowledge"
	"glenmist/core/plan"
	"glenmist/core/plug"
	"glenmist/core/shop"
	"glenmist/core/unit"
	"glenmist/store"
)

// shopPage is what the workshop sets for itself.
type shopPage struct {
	base
	Form  form
	Tools []toolChoice
	Rows  []ownRow
	// Gone are own rows that this version has no place for.
	Gone  []ownRow
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
	set, gone := set.Current()
	for _, o := range gone {
		p.Gone = append(p.Gone, ownRow{Of: rowWords(o.Row), Words: fmt.Sprintf("%s. %s (%s)", figureList(o.Values), o.Reason, o.By)})
	}
	for _, o := range set.Rows {
		p.Rows = append(p.Rows, ownRow{o.Row, rowWords(o.Row), ownWords(o), "/shop/row?" + url.Values{"row": {o.Row}}.Encode()})
	}
	return p
}

// posted parses a form for the workshop's settings, and reads them as they are, but for rows that have gone.
func (s *server) posted(w http.ResponseWriter, r *http.Request) (set shop.Settings, version int, ok bool) {
	if err := r.ParseForm(); err != nil {
		s.failForm(w, r, err)
		return set, 0, false
	}
	set, version, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.failStore(w, r, err)
	}
	set, _ = set.Current()
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
		s.done(w, r, r.PostForm, "/shop?saved=yes")
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

// rowValue is one figure of a row, as a person reads it.
type rowValue struct {
	Name, Words, Ships string
	as                 scale
}

// scale is how a figure is read: as it is kept, in per cent, or, of a logarithm, as a factor.
type scale int

const (
	plain scale = iota
	percent
	factor
)

// shown is a figure that is kept as a person reads it.
func (f rowValue) shown(kept float64) float64 {
	switch f.as {
	case percent:
		return 100 * kept
	case factor:
		return math.Exp(kept)
	}
	return kept
}

// kept is the reverse; a factor that is none is refused further on.
func (f rowValue) kept(shown float64) float64 {
	switch f.as {
	case percent:
		return shown / 100
	case factor:
		return math.Log(shown)
	}
	return shown
}

// fieldsOfRow lists the figures of a row.
func fieldsOfRow(row string) (fields []rowValue) {
	add := func(as scale, words string, ships float64) {
		f := rowValue{Name: fmt.Sprintf("value%d", len(fields)), Words: words, as: as}
		f.Ships = strconv.FormatFloat(f.shown(ships), 'g', 4, 64)
		fields = append(fields, f)
	}
	lump := func(as scale, of string, l knowledge.NormalComponent) {
		if as == factor {
			add(as, of+", as a factor", l.Centre)
			add(as, of+", give or take a factor of", l.Spread)
			return
		}
		add(as, of, l.Centre)
		add(as, of+", give or take", l.Spread)
	}
	table, id, _ := strings.Cut(row, ":")
	switch table {
	case "look":
		for l := range rowsOf(knowledge.Looks, row) {
			for i, f := range evidence.FindingsOn(l.On) {
				add(percent, f.Words+", %", l.Chance[i])
			}
		}
	case "sign":
		for r := range rowsOf(slices.Concat(knowledge.SoundSigns, knowledge.Signs), row) {
			a, _ := plug.FindAspect(r.Aspect)
			for i, s := range a.Signs {
				add(percent, unit.Capital(s.Short)+", %", r.Chance[i])
			}
		}
	case "gap":
		for g := range rowsOf(knowledge.Gaps, row) {
			lump(factor, "Gap", g.NormalComponent)
		}
	case "test":
		for c := range rowsOf(knowledge.CheckRows, row) {
			t, _ := evidence.FindTest(c.Test)
			for i, result := range t.Results {
				add(percent, result.Words+", %", c.Chance[i])
			}
		}
	case "reading":
		for n := range rowsOf(knowledge.NumberRows, row) {
			m, _ := evidence.FindMeasure(n.Measure)
			as := factor
			if m.Loaded {
				as = plain
			}
			add(percent, "Over range, %", n.Over)
			for i, l := range n.Figures {
				lump(as, unit.Capital(knowledge.FigureWords(m, i)), l)
			}
		}
	case "code":
		for c := range rowsOf(knowledge.CodeRows, row) {
			add(percent, "Sets the code, %", c.Chance)
		}
	case "trims":
		for t := range rowsOf(knowledge.TrimRows, row) {
			lump(plain, "Trims, %", knowledge.NormalComponent{Centre: t.Mean, Spread: t.SD})
		}
	case "severity":
		for s := range rowsOf(knowledge.Severities, row) {
			for i, words := range knowledge.BandWords {
				add(percent, words+", %", s.Shares[i])
			}
		}
	case "manner":
		for m := range rowsOf(knowledge.ConditionProfiles, row) {
			for i, when := range knowledge.WhenOrder {
				add(percent, "Fails "+when.Words()+", %", m.When[i])
			}
			for i, of := range []string{"slight", "middling", "dead"} {
				add(percent, "Said to be always there if "+of+", %", m.Always[i])
			}
		}
	case "thumb":
		for t := range rowsOf(knowledge.Thumbs, row) {
			add(plain, "At least", t.Range.Low)
			add(plain, "At most", t.Range.High)
		}
	case "repair":
		for r := range rowsOf(plan.Repairs, row) {
			add(plain, "Minutes", r.Minutes)
			add(plain, "Price of new parts", r.Price)
		}
	case "shift":
		for s := range rowsOf(fault.Shifts, row) {
			add(plain, "Times as often as else", s.Factor)
		}
	case "fault":
		if slices.ContainsFunc(fault.Catalogue, func(m fault.Mode) bool { return m.ID == id }) {
			add(plain, "Times as often as stated", 1)
		}
	case "step":
		if i := slices.IndexFunc(plan.Steps, func(s plan.Step) bool { return s.ID == id }); i >= 0 {
			add(plain, "Minutes", plan.Steps[i].Minutes)
		}
	}
	return fields
}

// rowsOf yields the row of an id, if there is one.
func rowsOf[T interface{ RowID() string }](rows []T, id string) iter.Seq[T] {
	return func(yield func(T) bool) {
		if i := slices.IndexFunc(rows, func(r T) bool { return r.RowID() == id }); i >= 0 {
			yield(rows[i])
		}
	}
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

// figureList writes figures with commas between.
func figureList(values []float64) string {
	var all []string
	for _, x := range values {
		all = append(all, fmt.Sprintf("%.4g", x))
	}
	return strings.Join(all, ", ")
}

// ownWords says what a workshop has put in place of a row, and why.
func ownWords(o knowledge.Override) string {
	var words []string
	for i, f := range fieldsOfRow(o.Row) {
		if i >= len(o.Values) {
			break
		}
		if f.as == percent {
			words = append(words, fmt.Sprintf("%s %.3g %%", strings.TrimSuffix(f.Words, ", %"), f.shown(o.Values[i])))
		} else {
			words = append(words, fmt.Sprintf("%s: %.4g", f.Words, f.shown(o.Values[i])))
		}
	}
	return fmt.Sprintf("Ours: %s. %s (%s, %s)", strings.Join(words, ", "), o.Reason, o.By, o.On.Format("2 Jan 2006"))
}

func (s *server) rowPage(r *http.Request, row string, f form, own bool) (rowPage, bool) {
	b, ok := findBelief(row)
	fields := fieldsOfRow(row)
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
	fields := fieldsOfRow(row)
	v := url.Values{"version": {strconv.Itoa(version)}, "by": {s.base(r, "").Hand}}
	o, own := set.Own(row)
	for i, f := range fields {
		v.Set(f.Name, f.Ships)
		if own && i < len(o.Values) {
			v.Set(f.Name, strconv.FormatFloat(f.shown(o.Values[i]), 'g', 4, 64))
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
		o := knowledge.Override{Row: row, Reason: strings.TrimSpace(v.Get("reason")), By: strings.TrimSpace(v.Get("by")), On: s.Now().UTC().Truncate(time.Second)}
		for _, f := range fieldsOfRow(row) {
			x, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(v.Get(f.Name)), ",", "."), 64)
			if err != nil {
				bad.Add(f.Name, "a number", invalid.Quote(v.Get(f.Name)))
			}
			if f.as == factor && x <= 0 {
				bad.Add(f.Name, "a factor above 0", invalid.Quote(v.Get(f.Name)))
				continue
			}
			o.Values = append(o.Values, f.kept(x))
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
		s.done(w, r, r.PostForm, "/shop?saved=yes")
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
