package jobs

import (
	"bytes"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/readings"
	"glenmist/web/page"
)

// ReadReadings takes a file of readings and fills in the form. Nothing is recorded yet.
func (s *Pages) ReadReadings(w http.ResponseWriter, r *http.Request) {
	it, text, ok := s.pasted(w, r, "csv", readings.MaxBytes)
	if !ok {
		return
	}
	text = strings.ToValidUTF8(strings.ReplaceAll(text, "\x00", "\uFFFD"), "\uFFFD")
	values := blankMeter(it, url.Values{"measure": {r.PostForm.Get("measure")}})
	m := measureOf(it, values.Get("measure"))
	rows, unread, err := readings.ReadCSV(it.Assessment().Engine, m, text)
	var bad invalid.Errors
	bad.Under("csv", err)
	for _, row := range rows {
		key := readingKey(row.Reading)
		for k, f := range meterFields(key, len(m.Figures)) {
			values.Set(f, row.Figures[k])
		}
		if row.Length != "" {
			values.Set("mm-"+key, row.Length)
		}
		if row.Jumps {
			values.Set("j-"+key, "yes")
		}
		values.Set("h-"+key, row.Heard)
	}
	values["unread"] = unread
	code := http.StatusOK
	if len(bad) > 0 {
		code = http.StatusUnprocessableEntity
		values.Set("csv", text)
	}
	s.ShowForm(w, r, code, it, MeterView, page.NewForm(values, bad, page.SameName))
}

// WriteReadings sends all readings of a job as CSV.
func (s *Pages) WriteReadings(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	var sets []evidence.Readings
	for _, m := range it.Assessment().Moments {
		if m.Entry.Readings() != nil {
			sets = append(sets, *m.Entry.Readings())
		}
	}
	var file bytes.Buffer
	if err := readings.WriteCSV(&file, sets); err != nil {
		s.Log.Error("readings", "job", it.Record.Job.Number, "error", err)
		s.Fail(w, r, http.StatusInternalServerError, "The readings could not be written.")
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="readings-%s.csv"`, page.FileName(it.Record.Job.Number)))
	_, _ = file.WriteTo(w)
}
