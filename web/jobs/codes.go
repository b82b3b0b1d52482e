package jobs

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/scan"
	"glenmist/core/trouble"
	"glenmist/web/page"
)

// leastRows is the least number of empty code lines in a form.
const leastRows = 4

// CodesView records trouble codes, typed or pasted.
var CodesView = View{
	Name: "codes", Title: "Trouble codes", Tab: "Codes", Key: "c", Does: "Enter or paste trouble codes",
	Phases: []course.Phase{course.Scan, course.Prove}, Kind: evidence.KindCodes,
	conditioned: true, Witnessed: true,
	Offered: func(e engine.Engine) bool { return e.Scanned() },
	Blank:   func(Loaded, url.Values) url.Values { return url.Values{} },
	Read:    readCodes,
	Field: func(_ Loaded, typed url.Values, path string) string {
		if strings.HasPrefix(path, "codes.readiness") {
			return "readiness"
		}
		if name, ok := strings.CutPrefix(path, "codes.frame."); ok {
			if strings.HasPrefix(name, "trims") {
				return frameField("short-1")
			}
			return frameField(name)
		}
		// codes.read[i].code belongs to the i-th row that is filled in.
		var i int
		if _, err := fmt.Sscanf(path, "codes.read[%d]", &i); err != nil {
			return ""
		}
		var rows []string
		for row := 1; row <= evidence.MaxCodes; row++ {
			rows = append(rows, codeField(row))
		}
		return filled(typed, rows, i)
	},
	Model: func(it Loaded, f page.Form) any {
		m := codesModel{States: trouble.States, Banks: it.Assessment().Engine.Banks(), Unread: f.Values["unread"], Notices: f.Values["notices"], Pasted: f.Get("pasted") != ""}
		rows := leastRows
		for row := 1; row <= evidence.MaxCodes; row++ {
			if f.Get(codeField(row)) != "" {
				rows = max(rows, min(row+1, evidence.MaxCodes))
			}
		}
		for row := 1; row <= rows; row++ {
			c := codeRow{N: row, Code: codeField(row), State: page.RowField("state", row), Text: page.RowField("text", row)}
			if code, err := trouble.Parse(f.Get(c.Code)); err == nil {
				c.Means = code.In(it.Assessment().Engine)
			}
			m.Rows = append(m.Rows, c)
		}
		m.Offer = []string{trouble.RandomMisfire.String()}
		for _, c := range it.Assessment().Engine.All() {
			m.Offer = append(m.Offer, trouble.MisfireOn(c).String())
		}
		for _, v := range frameValues {
			m.Frame = append(m.Frame, frameInput{frameField(v.path), v.words})
		}
		for bank := 1; bank <= m.Banks; bank++ {
			m.Frame = append(m.Frame, frameInput{frameField(fmt.Sprintf("short-%d", bank)), fmt.Sprintf("Short trim, bank %d, %%", bank)},
				frameInput{frameField(fmt.Sprintf("long-%d", bank)), fmt.Sprintf("Long trim, bank %d, %%", bank)})
		}
		for _, in := range m.Frame {
			m.Open = m.Open || f.Get(in.Name) != ""
		}
		for _, row := range trouble.Monitors {
			m.Monitors = append(m.Monitors, monitorChoice{row.Monitor, row.Words, slices.Contains(f.Values["incomplete"], string(row.Monitor))})
		}
		return m
	},
}

type codesModel struct {
	Rows   []codeRow
	States []trouble.State
	Offer  []string
	Frame  []frameInput
	Open   bool // the frame holds a value
	Banks  int
	// Monitors are those that can be not ready.
	Monitors []monitorChoice
	// Unread lists the parts of a pasted scan that were not understood.
	Unread []string
	// Notices are sentences about a scan as a whole.
	Notices []string
	Pasted  bool
}

type monitorChoice struct {
	Monitor trouble.Monitor
	Words   string
	Checked bool
}

type codeRow struct {
	N                        int
	Code, State, Text, Means string
}

type frameInput struct{ Name, Words string }

// frameValues are the figures of a freeze frame by their paths.
var frameValues = []struct {
	path, words string
	at          func(*trouble.Frame) **float64
}{
	{"rpm", "Speed of the engine, rpm", func(f *trouble.Frame) **float64 { return &f.RPM }},
	{"load", "Load, %", func(f *trouble.Frame) **float64 { return &f.Load }},
	{"coolant_c", "Coolant, °C", func(f *trouble.Frame) **float64 { return &f.Coolant }},
	{"speed_kmh", "Road speed, km/h", func(f *trouble.Frame) **float64 { return &f.Speed }},
}

func codeField(row int) string { return page.RowField("code", row) }

func frameField(path string) string { return "frame-" + path }

func readCodes(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	codes := &evidence.Codes{Read: []trouble.Reading{}}
	for row := 1; row <= evidence.MaxCodes; row++ {
		text := strings.TrimSpace(typed.Get(codeField(row)))
		if text == "" {
			continue
		}
		code, err := trouble.Parse(text)
		if err != nil {
			bad.Under(codeField(row), err)
		}
		state, err := trouble.ParseState(typed.Get(page.RowField("state", row)))
		if err != nil {
			bad.Under(codeField(row), err)
		}
		codes.Read = append(codes.Read, trouble.Reading{Code: code, State: state, Text: strings.TrimSpace(typed.Get(page.RowField("text", row)))})
	}
	frame, wrong := readFrame(it, typed)
	bad = append(bad, wrong...)
	if !frame.Empty() {
		codes.Frame = &frame
	}
	if typed.Get("readiness") != "" {
		codes.Readiness = &trouble.Readiness{Incomplete: []trouble.Monitor{}}
		for _, name := range typed["incomplete"] {
			codes.Readiness.Incomplete = append(codes.Readiness.Incomplete, trouble.Monitor(name))
		}
	} else if len(typed["incomplete"]) > 0 {
		bad.Add("readiness", "a tick here where monitors are marked as not ready", "none")
	}
	none := typed.Get("none") != ""
	if len(codes.Read) == 0 && !none && len(bad) == 0 {
		bad.Add(codeField(1), fmt.Sprintf("a code such as %s, or a tick at “no codes”", trouble.MisfireOn(engine.Cylinder(min(2, it.Assessment().Engine.Cylinders)))), "nothing")
	}
	if len(codes.Read) > 0 && none {
		bad.Add("none", "codes or “no codes”, not both", "both")
	}
	return evidence.Entry{Body: codes}, bad
}

func readFrame(it Loaded, typed url.Values) (f trouble.Frame, bad invalid.Errors) {
	for _, v := range frameValues {
		*v.at(&f) = page.Number(typed, frameField(v.path), &bad)
	}
	if code, err := trouble.Parse(typed.Get(frameField("code"))); err == nil {
		f.Code = &code
	}
	f.Trims = trimsTyped(it.Assessment().Engine, typed, "frame-", &bad)
	return f, bad
}

// trimsTyped reads the trims of each bank. A bank without values is left out.
func trimsTyped(e engine.Engine, typed url.Values, prefix string, bad *invalid.Errors) []trouble.Trim {
	var trims []trouble.Trim
	for bank := 1; bank <= e.Banks(); bank++ {
		short := page.Number(typed, fmt.Sprintf("%sshort-%d", prefix, bank), bad)
		long := page.Number(typed, fmt.Sprintf("%slong-%d", prefix, bank), bad)
		if short == nil && long == nil {
			continue
		}
		t := trouble.Trim{Bank: bank}
		if short != nil {
			t.Short = *short
		}
		if long != nil {
			t.Long = *long
		}
		trims = append(trims, t)
	}
	return trims
}

// pasted reads the job, and the text that was pasted into a field of a form or sent as a file. It reads up to most + 1
// bytes, so that the caller can reject a text that is too long.
func (s *Pages) pasted(w http.ResponseWriter, r *http.Request, field string, most int64) (it Loaded, text string, ok bool) {
	if err := r.ParseMultipartForm(page.MaxUpload); err != nil { //nolint:gosec // limitBody bounds the body
		if err := s.ReadForm(r); err != nil {
			s.FailForm(w, r, err)
			return it, "", false
		}
	}
	if it, ok = s.Load(w, r); !ok {
		return it, "", false
	}
	text = r.PostForm.Get(field)
	if file, _, err := r.FormFile("file"); err == nil {
		data, err := page.ReadAtMost(file, most+1)
		_ = file.Close()
		if err != nil {
			s.FailForm(w, r, err)
			return it, "", false
		}
		if len(data) > 0 {
			text = string(data)
		}
	}
	return it, text, true
}

// ReadScan reads a pasted or uploaded scan and fills in the form of the codes. It records
// nothing.
func (s *Pages) ReadScan(w http.ResponseWriter, r *http.Request) {
	it, text, ok := s.pasted(w, r, "scan", page.MaxUpload)
	if !ok {
		return
	}
	values, err := readScan(text)
	var bad invalid.Errors
	bad.Under("scan", err)
	code := http.StatusOK
	if len(bad) > 0 {
		code = http.StatusUnprocessableEntity
		values.Set("scan", strings.ToValidUTF8(strings.ReplaceAll(text[:min(len(text), scan.MaxBytes)], "\x00", "\uFFFD"), "\uFFFD"))
	}
	s.ShowForm(w, r, code, it, CodesView, page.NewForm(values, bad, page.SameName))
}

// readScan reads a scan as text, as CSV, or as a log of the bus, into the values of the form of codes.
func readScan(text string) (url.Values, error) {
	read := scan.Text
	switch {
	case scan.LooksLikeBus(text):
		read = scan.Bus
	case scan.LooksLikeCSV(text):
		read = scan.CSV
	}
	result, err := read(text)
	if err == nil && len(result.Read) == 0 && !result.None && result.Frame == nil && len(result.Trims) == 0 {
		err = invalid.Error{Expected: "a scan with at least one trouble code, such as P0302", Got: "none found"}
	}
	return scanned(result), err
}

// scanned returns the form values for the result of a scan.
func scanned(r scan.Result) url.Values {
	v := url.Values{"note": {r.Note}, "unread": r.Unread, "notices": r.Notices, "pasted": {"yes"}}
	for i, read := range r.Read {
		v.Set(codeField(i+1), read.Code.String())
		v.Set(page.RowField("state", i+1), string(read.State))
		v.Set(page.RowField("text", i+1), read.Text)
	}
	frame := trouble.Frame{Trims: r.Trims}
	if r.Frame != nil {
		frame = *r.Frame
	}
	if frame.Code != nil {
		v.Set(frameField("code"), frame.Code.String())
	}
	number := func(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
	for _, value := range frameValues {
		if x := *value.at(&frame); x != nil {
			v.Set(frameField(value.path), number(*x))
		}
	}
	for _, t := range frame.Trims {
		v.Set(frameField(fmt.Sprintf("short-%d", t.Bank)), number(t.Short))
		v.Set(frameField(fmt.Sprintf("long-%d", t.Bank)), number(t.Long))
	}
	if r.None {
		v.Set("none", "yes")
	}
	if r.Readiness != nil {
		v.Set("readiness", "yes")
		for _, m := range r.Readiness.Incomplete {
			v.Add("incomplete", string(m))
		}
	}
	return v
}
