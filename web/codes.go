package web

import (
	"fmt"
	"net/url"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/trouble"
)

// codeRows is how many codes one form takes.
const codeRows = 4

var codesView = view{
	name: "codes", title: "Trouble codes", tab: "Codes", key: "c", does: "Enter trouble codes",
	blank: func(seen, url.Values) url.Values { return url.Values{} },
	read:  readCodes,
	field: func(_ seen, typed url.Values, path string) string {
		// codes.read[i].code belongs to the i-th row that is filled in.
		var i int
		if _, err := fmt.Sscanf(path, "codes.read[%d]", &i); err != nil {
			return ""
		}
		var rows []string
		for row := 1; row <= codeRows; row++ {
			rows = append(rows, codeField(row))
		}
		return filled(typed, rows, i)
	},
	model: func(it seen, _ form) any {
		m := codesModel{States: trouble.States}
		for row := 1; row <= codeRows; row++ {
			m.Rows = append(m.Rows, codeRow{row, codeField(row), fmt.Sprintf("state-%d", row)})
		}
		m.Offer = []string{trouble.RandomMisfire.String()}
		for _, c := range it.a.Engine.All() {
			m.Offer = append(m.Offer, trouble.MisfireOn(c).String())
		}
		return m
	},
}

type codesModel struct {
	Rows   []codeRow
	States []trouble.State
	Offer  []string
}

type codeRow struct {
	N           int
	Code, State string
}

func codeField(row int) string { return fmt.Sprintf("code-%d", row) }

func readCodes(it seen, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	codes := &evidence.Codes{Read: []trouble.Reading{}}
	for row := 1; row <= codeRows; row++ {
		text := strings.TrimSpace(typed.Get(codeField(row)))
		if text == "" {
			continue
		}
		code, err := trouble.Parse(text)
		if err != nil {
			bad.Under(codeField(row), err)
		}
		state, err := trouble.ParseState(typed.Get(fmt.Sprintf("state-%d", row)))
		if err != nil {
			bad.Under(codeField(row), err)
		}
		codes.Read = append(codes.Read, trouble.Reading{Code: code, State: state})
	}
	none := typed.Get("none") != ""
	if len(codes.Read) == 0 && !none && len(bad) == 0 {
		bad.Add(codeField(1), fmt.Sprintf("a code such as %s, or a tick at “no codes”", trouble.MisfireOn(engine.Cylinder(min(2, it.a.Engine.Cylinders)))), "nothing")
	}
	if len(codes.Read) > 0 && none {
		bad.Add("none", "codes or “no codes”, not both", "both")
	}
	return evidence.Entry{Codes: codes}, bad
}
