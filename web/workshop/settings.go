// Package workshop is the pages of what holds for the whole workshop: its settings and own figures, what
// the reasoning believes, the calculators, and help.
package workshop

import (
	"cmp"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"glenmist/core/invalid"
	"glenmist/core/knowledge"
	"glenmist/core/plan"
	"glenmist/core/shop"
	"glenmist/core/unit"
	"glenmist/core/worksheet"
	"glenmist/store"
	"glenmist/web/page"
)

// Pages are what holds for the whole workshop: settings, beliefs, calculators and help.
type Pages struct {
	*page.App
	// changed is called when settings were changed that jobs are judged by.
	changed func()
}

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New makes the pages; changed is called when settings were changed that jobs are judged by.
func New(app *page.App, changed func()) *Pages { return &Pages{app, changed} }

// shopPage is what the workshop sets for itself.
type shopPage struct {
	page.Base
	Form  page.Form
	Tools []toolChoice
	// Schools are the questions on which practitioners differ.
	Schools []worksheet.School
	Rows    []ownRow
	// Gone are own rows that this version has no place for.
	Gone  []ownRow
	Saved bool
	Stale bool
	// Backup says where the backups stand; Bad is true if somebody has to see to them.
	Backup    string
	BackupBad bool
}

type toolChoice struct {
	ID, Name, For string
	Here          bool
}

type ownRow struct{ Row, Of, Words, Href string }

// ShowShop shows the settings of the workshop.
func (s *Pages) ShowShop(w http.ResponseWriter, r *http.Request) {
	set, version, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	v := url.Values{"wrenches": {wrenchWords(set.Tools)}, "wires": {wireWords(set.Tools)}, "rate": {fmt.Sprint(set.HourlyRate)}, "wrong": {fmt.Sprint(set.WrongVerdict)}, "version": {strconv.Itoa(version)}}
	for _, tool := range shop.ToolNames() {
		if !slices.Contains(set.Missing, tool) {
			v.Add("tool", tool)
		}
	}
	for id, answer := range set.Schools {
		v.Set("school-"+id, answer)
	}
	shown := s.shopPage(r, set, page.NewForm(v, nil, page.SameName))
	shown.Saved = r.URL.Query().Get("saved") != ""
	s.Render(w, r, http.StatusOK, "shop.html", shown)
}

func (s *Pages) shopPage(r *http.Request, set shop.Settings, f page.Form) shopPage {
	p := shopPage{Base: s.Base(r, "Workshop"), Form: f, Schools: worksheet.Schools}
	p.Backup, p.BackupBad = s.backupWords()
	for i, tool := range shop.ToolNames() {
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
		ships, _, _ := knowledge.FindRow(o.Row)
		p.Rows = append(p.Rows, ownRow{o.Row, ships.Of, ownWords(ships, o), "/shop/row?" + url.Values{"row": {o.Row}}.Encode()})
	}
	return p
}

// backupWords says where the backups stand; bad is true if somebody has to see to them.
func (s *Pages) backupWords() (words string, bad bool) {
	if s.Backups == nil {
		return "None are made while this server runs. --backup-dir names a folder for them; glenmist backup makes one by hand.", true
	}
	st := s.Backups.Status()
	if st.Last.IsZero() {
		words = "None yet in " + st.Dir + "."
	} else {
		words = fmt.Sprintf("Last backup: %s, %d jobs, %.1f MB, checked by restoring it. Kept in %s: %d.",
			st.Last.Local().Format("2 Jan 15:04"), st.Jobs, float64(st.Bytes)/1e6, st.Dir, st.Kept)
	}
	if st.Failed != "" {
		words += " The last try failed: " + st.Failed
	}
	return words, st.Late || st.Failed != ""
}

// posted parses a form for the workshop's settings, and reads them as they are, but for rows that have gone.
func (s *Pages) posted(w http.ResponseWriter, r *http.Request) (set shop.Settings, version int, ok bool) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return set, 0, false
	}
	set, version, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
	}
	set, _ = set.Current()
	return set, version, err == nil
}

// settingsForm is what the workshop sets for itself, as it is typed.
type settingsForm struct {
	HourlyRate   float64  `form:"rate" required:"yes" expected:"what an hour of work costs, such as 60"`
	WrongVerdict float64  `form:"wrong" required:"yes" expected:"minutes, such as 240"`
	Tools        []string `form:"tool"`
}

// SaveShop keeps the settings of the workshop.
func (s *Pages) SaveShop(w http.ResponseWriter, r *http.Request) {
	set, version, ok := s.posted(w, r)
	if !ok {
		return
	}
	v := r.PostForm
	bad := page.BadText(v)
	var typed settingsForm
	bad = append(bad, page.Decode(v, &typed)...)
	set.HourlyRate, set.WrongVerdict, set.Missing = typed.HourlyRate, typed.WrongVerdict, nil
	for _, tool := range shop.ToolNames() {
		if !slices.Contains(typed.Tools, tool) {
			set.Missing = append(set.Missing, tool)
		}
	}
	set.Tools, set.Schools = readTools(v, &bad), map[string]string{}
	for _, school := range worksheet.Schools {
		if answer := v.Get("school-" + school.ID); answer != "" && answer != school.Options[0].ID {
			set.Schools[school.ID] = answer
		}
	}
	if len(set.Schools) == 0 {
		set.Schools = nil
	}
	if len(bad) == 0 {
		bad = invalid.From(set.Validate())
	}
	again := func(code int, stale bool) {
		f := page.NewForm(v, bad, func(path string) string {
			return cmp.Or(map[string]string{"hourly_rate": "rate", "wrong_verdict_minutes": "wrong", "missing": "tool", "tools.wires_mm": "wires"}[path], wrenchField(path))
		})
		f.Set("version", strconv.Itoa(version))
		shown := s.shopPage(r, set, f)
		shown.Stale = stale
		s.Render(w, r, code, "shop.html", shown)
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
		s.FailStore(w, r, err)
	default:
		s.changed()
		s.Done(w, r, r.PostForm, "/shop?saved=yes")
	}
}

// wrenchWords and wireWords write the tools as they are typed.
func wrenchWords(t worksheet.Tools) string {
	var words []string
	for _, w := range t.Wrenches {
		words = append(words, fmt.Sprintf("%.4g-%.4g Nm", w.Low, w.High))
	}
	return strings.Join(words, "; ")
}

func wireWords(t worksheet.Tools) string {
	var words []string
	for _, mm := range t.Wires {
		words = append(words, unit.Decimal(mm))
	}
	return strings.Join(words, "; ")
}

// readTools reads torque wrenches and gauge wires, each list with semicolons between.
func readTools(v url.Values, bad *invalid.Errors) (t worksheet.Tools) {
	list := func(name string) (all []string) {
		for text := range strings.SplitSeq(v.Get(name), ";") {
			if text = strings.TrimSpace(text); text != "" {
				all = append(all, text)
			}
		}
		return all
	}
	for _, text := range list("wrenches") {
		w, err := unit.ParseTorqueRange(text)
		if err != nil {
			bad.Under("wrenches", err)
			continue
		}
		t.Wrenches = append(t.Wrenches, worksheet.Wrench(w))
	}
	for _, text := range list("wires") {
		mm, err := unit.Gap.Parse(text)
		if err != nil {
			bad.Under("wires", err)
			continue
		}
		t.Wires = append(t.Wires, mm)
	}
	slices.Sort(t.Wires)
	return t
}

// wrenchField returns the form field of a path of the settings.
func wrenchField(path string) string {
	if strings.HasPrefix(path, "tools.wrenches") {
		return "wrenches"
	}
	return path
}

// rowPage puts the workshop's own figures in place of a row.
type rowPage struct {
	page.Base
	Form    page.Form
	Row, Of string
	// Ships is what the row says as it ships, with its source.
	Ships, Source string
	Fields        []rowValue
	Own           bool
}

// rowValue is one figure of a row, as a person reads it.
type rowValue struct {
	Name, Words, Ships string
	as                 knowledge.Scale
}

// rowValues are the figures of a row, as it ships.
func rowValues(r knowledge.Row) (fields []rowValue) {
	for i, f := range r.Figures {
		fields = append(fields, rowValue{Name: fmt.Sprintf("value%d", i), Words: f.Label(), Ships: strconv.FormatFloat(f.As.Shown(*f.At), 'g', 4, 64), as: f.As})
	}
	return fields
}

// rowWords is what a row is of.
func rowWords(row string) string {
	if r, _, ok := knowledge.FindRow(row); ok {
		return r.Of
	}
	return row
}

// figureList writes figures with commas between.
func figureList(values []float64) string {
	var all []string
	for _, x := range values {
		all = append(all, fmt.Sprintf("%.4g", x))
	}
	return strings.Join(all, ", ")
}

// ownWords returns the own figures of a workshop for a row, with the reason.
func ownWords(r knowledge.Row, o knowledge.Override) string {
	var words []string
	for i, f := range r.Figures {
		if i >= len(o.Values) {
			break
		}
		if f.As == knowledge.Percent {
			words = append(words, fmt.Sprintf("%s %.3g %%", f.Words, f.As.Shown(o.Values[i])))
		} else {
			words = append(words, fmt.Sprintf("%s: %.4g", f.Label(), f.As.Shown(o.Values[i])))
		}
	}
	return fmt.Sprintf("Ours: %s. %s (%s, %s)", strings.Join(words, ", "), o.Reason, o.By, o.On.Format("2 Jan 2006"))
}

func (s *Pages) rowPage(r *http.Request, row string, f page.Form, own bool) (rowPage, bool) {
	b, _, ok := knowledge.FindRow(row)
	return rowPage{Base: s.Base(r, "Our own row"), Form: f, Row: row, Of: b.Of, Ships: b.Says, Source: b.Source, Fields: rowValues(b), Own: own}, ok
}

// ShowRow asks for the workshop's own figures for a row.
func (s *Pages) ShowRow(w http.ResponseWriter, r *http.Request) {
	set, version, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	query := r.URL.Query()
	_ = page.BadText(query)
	row := query.Get("row")
	ships, _, _ := knowledge.FindRow(row)
	fields := rowValues(ships)
	v := url.Values{"version": {strconv.Itoa(version)}}
	o, own := set.Own(row)
	for i, f := range fields {
		v.Set(f.Name, f.Ships)
		if own && i < len(o.Values) {
			v.Set(f.Name, strconv.FormatFloat(f.as.Shown(o.Values[i]), 'g', 4, 64))
		}
	}
	if own {
		v.Set("reason", o.Reason)
		v.Set("by", o.By)
	}
	shown, ok := s.rowPage(r, row, page.NewForm(v, nil, page.SameName), own)
	if !ok {
		s.NotFound(w, r)
		return
	}
	s.Render(w, r, http.StatusOK, "row.html", shown)
}

// SaveRow keeps the workshop's own figures for a row, or gives them up.
func (s *Pages) SaveRow(w http.ResponseWriter, r *http.Request) {
	set, version, ok := s.posted(w, r)
	if !ok {
		return
	}
	v := r.PostForm
	row := v.Get("row")
	_, own := set.Own(row)
	bad := page.BadText(v)
	next := set.Without(row)
	if v.Get("reset") == "" {
		o := knowledge.Override{Row: row, Reason: strings.TrimSpace(v.Get("reason")), By: strings.TrimSpace(v.Get("by")), On: s.Now().UTC().Truncate(time.Second)}
		ships, _, _ := knowledge.FindRow(row)
		for _, f := range rowValues(ships) {
			var x float64
			if typed := page.Number(v, f.Name, &bad); typed != nil {
				x = *typed
			} else if v.Get(f.Name) == "" {
				bad.Add(f.Name, "a number", invalid.Quote(""))
			}
			if (f.as == knowledge.Factor || f.as == knowledge.FactorSpread) && x <= 0 {
				bad.Add(f.Name, "a factor above 0", invalid.Quote(v.Get(f.Name)))
				continue
			}
			o.Values = append(o.Values, f.as.Kept(x))
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
		s.FailStore(w, r, err)
		return
	case len(bad) == 0:
		s.changed()
		s.Done(w, r, r.PostForm, "/shop?saved=yes")
		return
	}
	f := page.NewForm(v, bad, func(path string) string {
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
	shown, ok := s.rowPage(r, row, f, own)
	if !ok {
		s.NotFound(w, r)
		return
	}
	s.Render(w, r, code, "row.html", shown)
}
