package catalogue

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// MaxBytes bounds a file.
const MaxBytes = 1 << 20

// column is one column of the file besides the properties of parts.
type column struct {
	name string
	show func(Item) string
	put  func(*Item, string) error
}

// columns lists the columns before those of the properties.
var columns = []column{
	{"kind", func(i Item) string { return string(i.Kind) }, func(i *Item, s string) error { i.Kind = part.Kind(strings.ToLower(s)); return nil }},
	{"number", func(i Item) string { return i.Number }, func(i *Item, s string) error { i.Number = s; return nil }},
	{"fits", func(i Item) string { return strings.Join(i.Fits, ", ") }, func(i *Item, s string) error { i.Fits = Fits(s); return nil }},
	{"price", func(i Item) string { return decimal(i.Price) }, func(i *Item, s string) (err error) { i.Price, err = figure(s, "a price, such as 12.50"); return err }},
	{"life km", func(i Item) string { return decimal(float64(i.LifeKm)) }, func(i *Item, s string) (err error) { i.LifeKm, err = unit.ParseDistance(s); return err }},
	{"life years", func(i Item) string { return decimal(i.LifeYears) }, func(i *Item, s string) (err error) {
		i.LifeYears, err = figure(s, "a number of years, such as 4")
		return err
	}},
}

// Fits splits a list of vehicle numbers.
func Fits(s string) (all []string) {
	for f := range strings.FieldsFuncSeq(s, func(r rune) bool { return r == ',' || r == ';' }) {
		if f = strings.TrimSpace(f); f != "" && !slices.Contains(all, f) {
			all = append(all, f)
		}
	}
	return all
}

func decimal(x float64) string {
	if x == 0 {
		return ""
	}
	return unit.Decimal(x)
}

func figure(s, expected string) (float64, error) {
	v, ok := unit.Figure(s)
	if !ok {
		return 0, invalid.Error{Expected: expected, Got: invalid.Quote(s)}
	}
	return v, nil
}

// header lists all columns. A property that several kinds share has one column.
func header() (names []string) {
	for _, c := range columns {
		names = append(names, c.name)
	}
	for _, p := range part.Properties {
		if name := columnOf(p); !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return names
}

// columnOf names the column of a property, with its unit.
func columnOf(p part.Property) string {
	if p.Unit == "" {
		return p.ID
	}
	return p.ID + " " + p.Unit
}

// Write writes a catalogue as CSV with a header, in units as stored.
func Write(w io.Writer, items []Item) error {
	out := csv.NewWriter(w)
	names := header()
	if err := out.Write(names); err != nil {
		return err
	}
	for _, i := range items {
		row := make([]string, len(names))
		for k, c := range columns {
			row[k] = c.show(i)
		}
		for _, p := range part.PropertiesOf(i.Kind) {
			row[slices.Index(names, columnOf(p))] = p.Show(i.Make)
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// Read reads a catalogue: comma, semicolon or tab, with a header that names its columns in any order.
// Figures may have units of their own. Errors are [invalid.Errors] at "line 3, reach". Nothing is
// returned if a line is wrong.
func Read(text string) ([]Item, error) {
	var bad invalid.Errors
	if len(text) > MaxBytes {
		bad.Add("file", fmt.Sprintf("at most %d kB", MaxBytes>>10), fmt.Sprintf("%d kB", len(text)>>10))
		return nil, bad
	}
	text = strings.TrimPrefix(text, "\uFEFF")
	first, _, _ := strings.Cut(text, "\n")
	in := csv.NewReader(strings.NewReader(text))
	in.Comma = separator(first)
	in.FieldsPerRecord, in.TrimLeadingSpace, in.LazyQuotes = -1, true, false
	head, err := in.Read()
	if err != nil {
		bad.Add("line 1", "a header such as kind, number, fits, price", "nothing that can be read")
		return nil, bad
	}
	at := make([]string, len(head))
	for i, name := range head {
		if at[i] = known(name); at[i] == "" || slices.Contains(at[:i], at[i]) {
			bad.Add(fmt.Sprintf("line 1, column %d", i+1), "a column of the catalogue, once: "+strings.Join(header(), ", "), invalid.Quote(name))
		}
	}
	if !slices.Contains(at, "kind") || !slices.Contains(at, "number") {
		bad.Add("line 1", "the columns kind and number, besides others", invalid.Quote(strings.TrimSpace(first)))
	}
	if len(bad) > 0 {
		return nil, bad
	}
	var items []Item
	for line := 2; ; line++ {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			bad.Add(fmt.Sprintf("line %d", line), "fields with even quotes", err.Error())
			break
		}
		item, err := readRow(at, row)
		for _, e := range invalid.From(err) {
			bad.Add(fmt.Sprintf("line %d, %s", line, e.Field), e.Expected, e.Got)
		}
		if slices.ContainsFunc(items, item.Same) {
			bad.Add(fmt.Sprintf("line %d, number", line), "each part once", invalid.Quote(item.Number)+" again")
		}
		if items = append(items, item); len(items) > MaxItems || len(bad) > 20 {
			break
		}
	}
	if len(items) > MaxItems {
		bad.Add("file", fmt.Sprintf("at most %d parts", MaxItems), "more")
	}
	if err := bad.Err(); err != nil {
		return nil, err
	}
	return items, nil
}

// separator is the likeliest separator of a header.
func separator(first string) rune {
	best, most := ',', strings.Count(first, ",")
	for _, r := range ";\t" {
		if n := strings.Count(first, string(r)); n > most {
			best, most = r, n
		}
	}
	return best
}

// known returns the name of a column as it is written here, "" for an unknown one. The unit may be left
// out.
func known(name string) string {
	name = strings.ToLower(strings.Join(strings.Fields(name), " "))
	for _, h := range header() {
		base, _, _ := strings.Cut(h, " ")
		if name == strings.ToLower(h) || name == base && !strings.HasPrefix(h, "life") {
			return h
		}
	}
	return ""
}

// readRow reads one line; at names its columns.
func readRow(at, row []string) (item Item, err error) {
	var bad invalid.Errors
	cell := func(name string) string {
		if i := slices.Index(at, name); i >= 0 && i < len(row) {
			return strings.TrimSpace(row[i])
		}
		return ""
	}
	for _, c := range columns {
		if s := cell(c.name); s != "" {
			bad.Under(c.name, c.put(&item, s))
		}
	}
	for _, p := range part.Properties {
		name := columnOf(p)
		if s := cell(name); s != "" && slices.Contains(p.Kinds, item.Kind) {
			bad.Under(p.ID, p.Put(&item.Make, s))
		}
	}
	if len(bad) == 0 {
		for _, e := range invalid.From(item.Check()) {
			bad.Add(fieldOf(e.Field), e.Expected, e.Got)
		}
	}
	return item, bad.Err()
}

// fieldOf names the column of a path of an item.
func fieldOf(path string) string {
	for _, p := range part.Properties {
		if p.Path == path {
			return p.ID
		}
	}
	return strings.ReplaceAll(path, "_", " ")
}
