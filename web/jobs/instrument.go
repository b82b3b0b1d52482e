package jobs

import (
	"net/http"
	"net/url"

	"github.com/go-chi/chi/v5"
	"github.com/go-json-experiment/json"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// ReadInstrument answers with the form fields of one reading. It records nothing.
func (s *Pages) ReadInstrument(w http.ResponseWriter, r *http.Request) {
	if s.Instruments == nil {
		s.NotFound(w, r)
		return
	}
	query := r.URL.Query()
	_ = page.BadText(query)
	rec, err := s.Jobs.Job(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	var fields map[string]string
	if id := query.Get("measure"); id != "" {
		fields, err = s.readMeterOf(rec.Job, evidence.MeasureID(id), query.Get("on"))
	} else {
		fields, err = s.readTesterOf(rec.Job, query)
	}
	if err != nil {
		if !invalid.Is(err) {
			s.Log.Error("instrument", "job", rec.Job.Number, "error", err)
			page.WriteText(w, http.StatusBadGateway, "the instrument does not answer\n")
			return
		}
		w.Header().Set("Content-Type", "application/json; charset=utf-8")
		w.WriteHeader(http.StatusUnprocessableEntity)
		_ = json.MarshalWrite(w, map[string]any{"errors": invalid.From(err)}, json.Deterministic(true))
		return
	}
	w.Header().Set("Content-Type", "application/json; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	_ = json.MarshalWrite(w, fields, json.Deterministic(true))
}

func (s *Pages) readMeterOf(j job.Job, id evidence.MeasureID, on string) (map[string]string, error) {
	asked := evidence.Reading{Place: engine.Place(on)}
	if t, err := part.ParseTag(j.Vehicle.Engine, on); err == nil {
		asked = evidence.Reading{Tag: t}
	}
	set, err := s.Instruments.Read(j, id, asked)
	if err != nil {
		return nil, err
	}
	m, _ := evidence.FindMeasure(id)
	one := set.Each[0]
	key := readingKey(one)
	fields := map[string]string{}
	names := meterFields(key, len(m.Figures))
	for k, v := range one.Figures {
		fields[names[k]] = unit.Decimal(v)
		if m.Figures[k].Of == nil {
			fields[names[k]] = unit.Ohms{Value: v}.String()
		}
	}
	if one.Over {
		fields[names[0]] = "OL"
	}
	if one.Jumps {
		fields["j-"+key] = "yes"
	}
	if one.Millimetres > 0 {
		fields["mm-"+key] = unit.Decimal(one.Millimetres)
	}
	if one.Heard != "" {
		fields["h-"+key] = string(one.Heard)
	}
	if set.Leads > 0 {
		fields["leads"] = unit.Decimal(set.Leads)
	}
	if set.Celsius != nil {
		fields["celsius"] = unit.Decimal(*set.Celsius)
	}
	if set.Make != "" {
		fields["make"] = string(set.Make)
	}
	return fields, nil
}

func (s *Pages) readTesterOf(j job.Job, query url.Values) (map[string]string, error) {
	var bad invalid.Errors
	test := sparksTyped(query, &bad)
	if len(bad) > 0 {
		return nil, bad
	}
	at := engine.Place(query.Get("on"))
	saw, err := s.Instruments.Spark(j, test, at)
	if err != nil {
		return nil, err
	}
	return map[string]string{seenField(at): string(saw)}, nil
}
