package web

import (
	"errors"
	"fmt"
	"io"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/scope"
	"glenmist/core/unit"
)

// maxCapture is the most that an upload of a capture may be: the file and its few fields.
const maxCapture = scope.MaxBytes + 1<<20

// readCapture takes a capture of secondary kilovolts and fills in the form of readings with
// what it found. It is read as it comes in; nothing is recorded, and the file is not kept.
func (s *server) readCapture(w http.ResponseWriter, r *http.Request) {
	parts, err := r.MultipartReader()
	if err != nil {
		s.failForm(w, r, err)
		return
	}
	it, ok := s.see(w, r)
	if !ok {
		return
	}
	values := blankMeter(it, url.Values{"measure": {string(evidence.KVSteady)}})
	var bad invalid.Errors
	found := false
	for !found && len(bad) == 0 {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			bad.Add("capture", "a capture: a CSV file of a scope, or a WAV file", "none")
			break
		}
		if err != nil {
			s.failForm(w, r, err)
			return
		}
		if part.FileName() == "" {
			text, err := readAtMost(part, 64)
			if err != nil {
				s.failForm(w, r, err)
				return
			}
			if name := part.FormName(); slices.Contains([]string{"factor", "turn"}, name) {
				values.Set(name, string(text))
			}
			continue
		}
		found = true
		bad = append(bad, captured(it.a.Engine, part, values)...)
	}
	values.Set("by", s.jobPage(r, it, nil).By)
	code := http.StatusOK
	if len(bad) > 0 {
		code = http.StatusUnprocessableEntity
	}
	s.showForm(w, r, code, it, meterView, newForm(values, bad, same))
}

// captured reads a capture and puts its figures, and what is to be said of it, among the values
// of a form of readings.
func captured(e engine.Engine, file io.Reader, values url.Values) invalid.Errors {
	var bad invalid.Errors
	opt := scope.Options{}
	if text := strings.TrimSpace(values.Get("factor")); text != "" {
		factor, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
		if err != nil || !(factor > 0 && factor <= 1e6) {
			bad.Add("factor", "how many times more there is than was measured, such as 1000, up to 1 000 000", invalid.Quote(text))
			return bad
		}
		opt.Factor = factor
	}
	turn, err := strconv.Atoi(strings.TrimSpace("0" + values.Get("turn")))
	if err != nil || turn > engine.MaxCylinders {
		bad.Add("turn", fmt.Sprintf("by how many places, 0 to %d", engine.MaxCylinders), invalid.Quote(values.Get("turn")))
		return bad
	}
	trace, err := scope.Read(file, opt)
	if err != nil {
		if errs := invalid.From(err); len(errs) > 0 {
			bad.Add("capture", errs[0].Expected, errs[0].Got)
			return bad
		}
		bad.Add("capture", "a capture that arrives whole", err.Error())
		return bad
	}
	a, how := assigned(e, trace, turn)
	if len(a.Shots) == 0 {
		bad.Add("capture", "a trace with ignition events in it", "none found")
		return bad
	}
	sums := a.Summaries()
	for _, one := range scope.Readings(sums).Each {
		for k, name := range meterFields(readingKey(one)) {
			values.Set(name, trim(one.Figures[k]))
		}
	}
	values.Add("said", fmt.Sprintf("%d events in %.1f s at %s samples a second. %s", len(a.Shots), trace.Seconds(), unit.Thousands(int(math.Round(trace.Rate))), how))
	if trace.Guessed {
		values.Add("said", "No unit stood in the file: the values were taken for kilovolts, or for volts where they are too high for that.")
	}
	if trace.Skipped > 0 {
		words := fmt.Sprintf("%d lines could not be read and were left out", trace.Skipped)
		if trace.Skipped == 1 {
			words = "One line could not be read and was left out"
		}
		if len(trace.Bad) > 0 {
			words += fmt.Sprintf(": line %d, %s", trace.Bad[0].Line, trace.Bad[0].Got)
		}
		values.Add("said", words+".")
	}
	for _, sum := range sums {
		words := sum.Words()
		if sum.Open > 0 {
			words += fmt.Sprintf("; %d without an arc", sum.Open)
		}
		values.Add("said", words+".")
	}
	return bad
}

// assigned gives the events of a capture their cylinders: one channel each where there are as
// many as cylinders, else by a sync channel, else counted through.
func assigned(e engine.Engine, t *scope.Trace, turn int) (a scope.Assigned, how string) {
	n := e.Cylinders
	if len(t.Channels) >= n {
		for i, c := range e.All() {
			for _, ev := range t.Events(i) {
				a.Shots = append(a.Shots, scope.Shot{Event: ev, Cylinder: c})
			}
		}
		if e.Ignition == engine.WastedSpark {
			a.Pair()
			return a, "One channel a cylinder; the idle event of each pair is kept apart."
		}
		return a, "One channel a cylinder, in order of number."
	}
	var syncs []float64
	sync := slices.IndexFunc(t.Channels, func(c scope.Channel) bool {
		name := strings.ToLower(c.Name)
		return strings.Contains(name, "sync") || strings.Contains(name, "trig") || strings.Contains(name, "cyl")
	})
	if sync <= 0 && len(t.Channels) > 1 {
		sync = 1
	}
	if sync > 0 {
		syncs = t.Syncs(sync)
	}
	a = scope.Assign(e, t.Events(0), syncs, turn)
	if a.Synced {
		return a, fmt.Sprintf("Cylinders by the sync on cylinder 1: %.0f %% of the cycles are whole.", 100*a.Sure)
	}
	return a, fmt.Sprintf("No sync: the first event is taken for cylinder %d. If the plan says otherwise, turn it.", a.First(e))
}
