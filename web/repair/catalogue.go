package repair

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"glenmist/core/catalogue"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/unit"
	"glenmist/store"
	"glenmist/web/page"
)

// cataloguePage is the workshop's parts.
type cataloguePage struct {
	page.Base
	Form   page.Form
	Kinds  []page.Choice
	Kind   part.Kind
	Fields []propertyField
	Rows   []itemRow
	Stock  []store.Spare
	Saved  bool
	Wrong  invalid.Errors // of a file
}

type propertyField struct {
	ID, Words, Unit string
	Choices         []string
}

type itemRow struct {
	Item                catalogue.Item
	Kind                string
	Words, Fits, Change string
}

// ShowCatalogue lists the parts, with a form for one. Its query names the part to change.
func (s *Pages) ShowCatalogue(w http.ResponseWriter, r *http.Request) {
	query := r.URL.Query()
	_ = page.BadText(query)
	items, err := s.Jobs.Catalogue(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	v := url.Values{"kind": {query.Get("kind")}}
	if i := slices.IndexFunc(items, func(i catalogue.Item) bool {
		return string(i.Kind) == query.Get("kind") && i.Number == query.Get("number")
	}); i >= 0 {
		v = valuesOf(items[i])
	}
	s.catalogue(w, r, http.StatusOK, items, page.NewForm(v, nil, page.SameName), nil)
}

// valuesOf writes a part into the fields of the form.
func valuesOf(i catalogue.Item) url.Values {
	v := url.Values{"kind": {string(i.Kind)}, "number": {i.Number}, "fits": {strings.Join(i.Fits, ", ")}}
	number := func(name string, x float64) {
		if x != 0 {
			v.Set(name, unit.Decimal(x))
		}
	}
	number("price", i.Price)
	number("life_km", float64(i.LifeKm))
	number("life_years", i.LifeYears)
	for _, p := range part.PropertiesOf(i.Kind) {
		v.Set(p.ID, p.Show(i.Make))
	}
	return v
}

func (s *Pages) catalogue(w http.ResponseWriter, r *http.Request, code int, items []catalogue.Item, f page.Form, wrong invalid.Errors) {
	stock, err := s.Jobs.Stock(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	p := cataloguePage{Base: s.Base(r, "Parts catalogue"), Form: f, Stock: stock, Saved: r.URL.Query().Get("saved") != "", Wrong: wrong, Kind: part.Kind(f.Get("kind"))}
	if !slices.Contains(catalogue.Kinds, p.Kind) {
		p.Kind = catalogue.Kinds[0]
	}
	for _, k := range catalogue.Kinds {
		p.Kinds = append(p.Kinds, page.Choice{Value: string(k), Words: unit.Capital(string(k))})
	}
	for _, q := range part.PropertiesOf(p.Kind) {
		p.Fields = append(p.Fields, propertyField{q.ID, q.Words, q.Unit, q.Choices})
	}
	for _, i := range items {
		row := itemRow{Item: i, Kind: unit.Capital(string(i.Kind)), Fits: strings.Join(i.Fits, ", "), Change: "/catalogue?" + url.Values{"kind": {string(i.Kind)}, "number": {i.Number}}.Encode() + "#part"}
		var words []string
		for _, q := range part.PropertiesOf(i.Kind) {
			if x := q.Show(i.Make); x != "" && q.ID != "lettering" {
				words = append(words, strings.TrimSpace(strings.ToLower(q.Words)+" "+x+" "+q.Unit))
			}
		}
		row.Words = strings.Join(words, ", ")
		p.Rows = append(p.Rows, row)
	}
	s.Render(w, r, code, "catalogue.html", p)
}

// SaveItem keeps a part of the catalogue, or removes it.
func (s *Pages) SaveItem(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	typed := r.PostForm
	bad := page.BadText(typed)
	var err error
	switch typed.Get("do") {
	case "remove":
		err = s.Jobs.RemoveItem(r.Context(), part.Kind(typed.Get("kind")), typed.Get("number"))
		if errors.Is(err, store.ErrNoItem) {
			bad.Add("number", "a part of the catalogue", invalid.Quote(typed.Get("number")))
			err = nil
		}
	case "show": // the fields of another kind, nothing is kept
		s.again(w, r, http.StatusOK, page.NewForm(typed, nil, page.SameName), nil)
		return
	default:
		item, wrong := readItem(typed)
		if bad = append(bad, wrong...); len(bad) == 0 {
			err = s.Jobs.SaveItem(r.Context(), item)
		}
	}
	if fields := page.FieldsOf(err); fields != nil {
		bad, err = append(bad, fields...), nil
	}
	switch {
	case err != nil:
		s.FailStore(w, r, err)
	case len(bad) > 0:
		s.again(w, r, http.StatusUnprocessableEntity, page.NewForm(typed, bad, itemField), nil)
	default:
		s.Done(w, r, typed, "/catalogue?saved=yes")
	}
}

// again shows the page with a form as it was typed.
func (s *Pages) again(w http.ResponseWriter, r *http.Request, code int, f page.Form, wrong invalid.Errors) {
	items, err := s.Jobs.Catalogue(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	s.catalogue(w, r, code, items, f, wrong)
}

// readItem reads a part of a form.
func readItem(typed url.Values) (i catalogue.Item, bad invalid.Errors) {
	i.Kind = part.Kind(typed.Get("kind"))
	i.Number, i.Fits = strings.TrimSpace(typed.Get("number")), catalogue.Fits(typed.Get("fits"))
	figure := func(name, expected string, to *float64) {
		if text := strings.TrimSpace(typed.Get(name)); text != "" {
			x, ok := unit.Figure(text)
			if !ok {
				bad.Add(name, expected, invalid.Quote(text))
			}
			*to = x
		}
	}
	figure("price", "a price, such as 12.50", &i.Price)
	figure("life_years", "a number of years, such as 4", &i.LifeYears)
	if text := strings.TrimSpace(typed.Get("life_km")); text != "" {
		km, err := unit.ParseDistance(text)
		bad.Under("life_km", err)
		i.LifeKm = km
	}
	for _, p := range part.PropertiesOf(i.Kind) {
		text := typed.Get(p.ID)
		if strings.HasPrefix(p.ID, "torque-") && strings.TrimSpace(text) != "" {
			if _, ok := unit.Figure(text); ok {
				bad.Add(p.ID, "a torque with its unit, such as 25 N·m or 18 lbf·ft", invalid.Quote(text))
				continue
			}
		}
		bad.Under(p.ID, p.Put(&i.Make, text))
	}
	return i, bad
}

// itemField returns the form field of a path of an item.
func itemField(path string) string {
	for _, p := range part.Properties {
		if p.Path == path {
			return p.ID
		}
	}
	return path
}

// ExportCatalogue sends the catalogue as CSV.
func (s *Pages) ExportCatalogue(w http.ResponseWriter, r *http.Request) {
	items, err := s.Jobs.Catalogue(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	var b bytes.Buffer
	if err := catalogue.Write(&b, items); err != nil {
		s.Log.Error("catalogue", "error", err)
		s.Fail(w, r, http.StatusInternalServerError, "The catalogue could not be written.")
		return
	}
	if err := s.Jobs.Note(r.Context(), store.TableExported, "parts catalogue", fmt.Sprintf("%d parts as CSV", len(items))); err != nil {
		s.FailStore(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="glenmist-parts.csv"`)
	w.Header().Set("Cache-Control", "no-store")
	_, _ = b.WriteTo(w)
}

// ImportCatalogue takes parts in from a CSV file, all or none.
func (s *Pages) ImportCatalogue(w http.ResponseWriter, r *http.Request) {
	up, err := s.ReadUpload(w, r, catalogue.MaxBytes)
	refuse := func(code int, bad invalid.Errors) {
		s.again(w, r, code, page.NewForm(url.Values{}, nil, page.SameName), bad)
	}
	if err != nil {
		s.FailUpload(w, r, err, "a CSV file of at most 1 MB", refuse)
		return
	}
	defer func() { _ = up.File.Close() }()
	text, err := page.ReadAtMost(io.NewSectionReader(up.File, 0, up.File.Size()), catalogue.MaxBytes)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	if up.Name == "" {
		refuse(http.StatusUnprocessableEntity, invalid.Errors{{Field: "file", Expected: "a CSV file of parts", Got: "no file"}})
		return
	}
	items, err := catalogue.Read(strings.ToValidUTF8(string(text), "\uFFFD"))
	if err == nil {
		err = s.Jobs.SaveItems(r.Context(), items)
	}
	switch {
	case page.FieldsOf(err) != nil:
		refuse(http.StatusUnprocessableEntity, page.FieldsOf(err))
	case err != nil:
		s.FailStore(w, r, err)
	default:
		s.Done(w, r, up.Typed, "/catalogue?saved=yes")
	}
}
