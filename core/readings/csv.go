package readings

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// Bounds of a file of readings.
const (
	MaxBytes = 64 << 10
	maxLines = 200
)

// The columns beside those of the figures.
const (
	columnMeasure = "measure"
	columnWhat    = "what"
	columnLength  = "length mm"
	columnJumps   = "jumps"
	columnHeard   = "heard"
	columnAtLeast = "at least"
)

// figureColumns are the columns of the figures: as many as the measure with the most has.
var figureColumns = func() []string {
	most := 0
	for _, m := range evidence.Measures {
		most = max(most, len(m.Figures))
	}
	names := []string{"figure"}
	for n := 2; n <= most; n++ {
		names = append(names, fmt.Sprintf("figure %d", n))
	}
	return names
}()

// header names the columns that are written; what is read may have them in any order.
var header = slices.Concat([]string{columnMeasure, columnWhat}, figureColumns, []string{columnLength, columnJumps, columnHeard, columnAtLeast})

// Row is a line of a file of readings, as it was typed.
type Row struct {
	Reading evidence.Reading // its tag or place
	// Figures are as many as the measure has; those that are missing are "".
	Figures []string
	Length  string
	Jumps   bool
	Heard   string
	AtLeast bool
}

// ReadCSV finds the readings of one measure in a file: comma, semicolon or tab, with or
// without a header. Without header the columns are the item and its figures. Unreadable lines
// are returned one by one; figures are not parsed here. An error is an [invalid.Error] for the
// whole file.
func ReadCSV(e engine.Engine, m evidence.Measure, text string) (rows []Row, unread []string, err error) {
	if len(text) > MaxBytes {
		return nil, nil, invalid.Error{Expected: "at most 64 kB", Got: fmt.Sprintf("%d bytes", len(text))}
	}
	first, _, _ := strings.Cut(text, "\n")
	r := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\uFEFF")))
	r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = -1, true, true
	for _, sep := range []rune{'\t', ';'} {
		if strings.ContainsRune(first, sep) {
			r.Comma = sep
			break
		}
	}
	at := map[string]int{columnWhat: 0}
	for k, name := range figureColumns {
		at[name] = 1 + k
	}
	for line := 1; ; line++ {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if line > maxLines {
			return nil, nil, invalid.Error{Expected: fmt.Sprintf("at most %d lines", maxLines), Got: "more"}
		}
		if err != nil {
			unread = append(unread, fmt.Sprintf("line %d: %v", line, err))
			continue
		}
		if named, ok := columns(record); ok && line == 1 {
			at = named
			continue
		}
		get := func(name string) string {
			if i, ok := at[name]; ok && i < len(record) {
				return strings.TrimSpace(record[i])
			}
			return ""
		}
		if id := get(columnMeasure); id != "" && id != string(m.ID) {
			continue // a different measure in the same file
		}
		on, ok := on(e, m, get(columnWhat))
		if !ok {
			unread = append(unread, fmt.Sprintf("line %d: %s", line, invalid.Quote(strings.Join(record, ", "))))
			continue
		}
		row := Row{Reading: on, Length: get(columnLength), Jumps: isYes(get(columnJumps)), Heard: get(columnHeard), AtLeast: isYes(get(columnAtLeast))}
		for _, name := range figureColumns[:len(m.Figures)] {
			row.Figures = append(row.Figures, get(name))
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 && len(unread) == 0 {
		return nil, nil, invalid.Error{Expected: "lines such as L3, 6k2 or cyl-3; 11,5", Got: "none"}
	}
	return rows, unread, nil
}

// isYes reports whether a cell is a yes.
func isYes(text string) bool {
	switch strings.ToLower(text) {
	case "yes", "jumps", "1", "x", "true":
		return true
	}
	return false
}

// columns returns which columns a header names.
func columns(record []string) (map[string]int, bool) {
	at := map[string]int{}
	for i, name := range record {
		name = strings.ToLower(strings.TrimSpace(name))
		for _, known := range header {
			if name == known {
				at[known] = i
			}
		}
	}
	_, what := at[columnWhat]
	_, figure := at[figureColumns[0]]
	return at, what && figure
}

// WriteCSV writes readings with a header, so that [ReadCSV] reads them again.
func WriteCSV(w io.Writer, sets []evidence.Readings) error {
	out := csv.NewWriter(w)
	if err := out.Write(header); err != nil {
		return err
	}
	for _, r := range sets {
		m, _ := evidence.FindMeasure(r.Measure)
		for _, one := range r.Each {
			cells := map[string]string{columnMeasure: string(m.ID), columnWhat: string(one.Tag) + string(one.Place), columnHeard: string(one.Heard)}
			for k, v := range one.Figures {
				cells[figureColumns[k]] = strconv.FormatFloat(v, 'f', -1, 64)
			}
			if one.Over {
				cells[figureColumns[0]] = "OL"
			}
			if one.Millimetres > 0 {
				cells[columnLength] = strconv.FormatFloat(one.Millimetres, 'f', -1, 64)
			}
			if one.Jumps {
				cells[columnJumps] = "yes"
			}
			if one.AtLeast {
				cells[columnAtLeast] = "yes"
			}
			record := make([]string, len(header))
			for i, name := range header {
				record[i] = cells[name]
			}
			if err := out.Write(record); err != nil {
				return err
			}
		}
	}
	out.Flush()
	return out.Error()
}

// on returns the part or place that a text names: a tag ("L3"), a place ("cyl-3") or a
// cylinder ("3").
func on(e engine.Engine, m evidence.Measure, what string) (evidence.Reading, bool) {
	if m.Part(e) {
		if t, err := part.ParseTag(e, strings.ToUpper(what)); err == nil && t.Kind() == m.On {
			return evidence.Reading{Tag: t}, true
		}
	}
	place := engine.Place(what)
	if c, err := e.ParseCylinder(what); err == nil {
		place = engine.At(c)
	}
	is := func(p engine.Place) bool { return p != "" && strings.EqualFold(string(p), string(place)) }
	for _, one := range m.Each(e, part.Home(e)) {
		if is(one.Place) || one.Tag != "" && is(one.Tag.Home()) {
			return one, true
		}
	}
	return evidence.Reading{}, false
}
