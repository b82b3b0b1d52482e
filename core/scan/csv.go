package scan

import (
	"encoding/csv"
	"errors"
	"io"
	"slices"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/trouble"
)

// columns maps known headings, in lower case, to fields.
var columns = map[string]string{
	"code": "code", "dtc": "code", "trouble code": "code", "fault code": "code",
	"state": "state", "status": "state", "type": "state",
	"description": "text", "text": "text", "meaning": "text", "fault": "text",
}

// CSV reads a scan as comma, semicolon or tab separated values, with or without a heading. A
// row with a code is a code with state and text. A row with a name and a figure is a figure of
// the freeze frame. Other rows are kept in the note. It fails only if the file is too long or
// is no CSV.
func CSV(s string) (Result, error) {
	all, err := lines(strings.TrimPrefix(s, "\uFEFF"))
	if err != nil {
		return Result{}, err
	}
	in := csv.NewReader(strings.NewReader(strings.Join(all, "\n")))
	in.Comma = separator(all)
	in.FieldsPerRecord, in.LazyQuotes, in.TrimLeadingSpace = -1, true, true
	r := reader{state: trouble.Stored}
	var heading []string
	for first := true; ; first = false {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return Result{}, invalid.Error{Expected: "comma, semicolon or tab separated values", Got: err.Error()}
		}
		if first {
			if heading = headed(row); heading != nil {
				continue
			}
		}
		r.row(row, heading)
	}
	return r.result()
}

// separator returns the most frequent separator of the first lines.
func separator(all []string) rune {
	best, most := ',', 0
	head := strings.Join(all[:min(len(all), 10)], "\n")
	for _, mark := range []rune{',', ';', '\t'} {
		if n := strings.Count(head, string(mark)); n > most {
			best, most = mark, n
		}
	}
	return best
}

// headed returns the field of each column, or nil if the row is no heading.
func headed(row []string) []string {
	names := make([]string, len(row))
	known := false
	for i, cell := range row {
		names[i] = columns[strings.ToLower(strings.TrimSpace(cell))]
		known = known || names[i] == "code"
	}
	if !known {
		return nil
	}
	return names
}

func (r *reader) row(row, heading []string) {
	var code, state, text string
	for i, cell := range row {
		cell = strings.TrimSpace(cell)
		name := ""
		if i < len(heading) {
			name = heading[i]
		}
		_, err := trouble.Parse(cell)
		switch {
		case name == "code" && (err == nil || nearly(cell)), name == "" && code == "" && err == nil:
			code = cell
		case name == "state":
			state = cell
		case name == "text":
			text = cell
		case heading == nil:
			if _, ok := stateIn(cell); ok && state == "" {
				state = cell
			} else if text == "" {
				text = cell
			}
		}
	}
	parsed, err := trouble.Parse(code)
	switch {
	case err == nil:
		read := trouble.Reading{Code: parsed, State: trouble.Stored, Text: clean(text)}
		if s, ok := stateIn(state); ok {
			read.State = s
		}
		r.add(read)
	case nearly(code):
		r.Unread = append(r.Unread, code)
		r.note = append(r.note, strings.Join(row, " "))
	case len(row) >= 2 && r.value(strings.TrimSpace(row[0])+": "+strings.TrimSpace(strings.Join(row[1:], " "))):
	default:
		if line := strings.TrimSpace(strings.Join(row, " ")); line != "" {
			if slices.ContainsFunc(codeLike.FindAllString(line, -1), nearly) {
				r.Unread = append(r.Unread, line)
			}
			r.note = append(r.note, line)
		}
	}
}

// LooksLikeCSV reports whether a scan looks like CSV: a heading with codes, or a separator in
// most non-empty lines.
func LooksLikeCSV(s string) bool {
	lines := strings.FieldsFunc(s, func(r rune) bool { return r == '\n' || r == '\r' })
	if len(lines) == 0 {
		return false
	}
	mark := string(separator(lines))
	if headed(strings.Split(strings.TrimPrefix(lines[0], "\uFEFF"), mark)) != nil {
		return strings.Contains(lines[0], mark)
	}
	with := 0
	for _, l := range lines {
		if strings.Count(l, mark) >= 1 && (mark != "," || !strings.Contains(l, ", ")) {
			with++
		}
	}
	return 2*with > len(lines)
}
