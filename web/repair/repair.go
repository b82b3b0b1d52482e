// Package repair is the pages of the fix: the worksheet with its marks, the renewal of parts, the
// worksheet on paper, and the workshop's catalogue of parts.
package repair

import (
	"context"
	"embed"
	"errors"
	"net/http"

	"glenmist/core/catalogue"
	"glenmist/core/engine"
	"glenmist/core/part"
	"glenmist/core/worksheet"
	"glenmist/store"
	"glenmist/web/jobs"
)

// Pages handles the fix.
type Pages struct{ *jobs.Pages }

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New returns the pages.
func New(of *jobs.Pages) *Pages { return &Pages{of} }

// CaseOf makes the case of a job's worksheet: with its marks, the vehicle's own figures and the workshop's
// catalogue. It makes three queries.
func CaseOf(ctx context.Context, s *jobs.Pages, it jobs.Loaded) (c worksheet.Case, err error) {
	j := it.Record.Job
	if j.Worksheet, err = s.Jobs.Marks(ctx, j.Number); err != nil {
		return c, err
	}
	items, err := s.Jobs.Catalogue(ctx)
	if err != nil {
		return c, err
	}
	c = worksheet.Case{Job: j, Beliefs: it.Shop.Beliefs(), Tools: it.Shop.Tools, Schools: it.Shop.Schools, HourlyRate: it.Shop.HourlyRate, Specs: j.Vehicle.Engine.Specs,
		Catalogue: func(k part.Kind, number string) (worksheet.Listed, bool) {
			i, ok := catalogue.Find(items, k, j.Vehicle.Fleet, number)
			return worksheet.Listed{Make: i.Make, Price: i.Price}, ok
		}}
	kept, err := s.Jobs.Vehicle(ctx, j.Vehicle.Fleet)
	if err == nil {
		c.Specs = merged(j.Vehicle.Engine, kept.Vehicle.Engine).Specs
	} else if !errors.Is(err, store.ErrNoVehicle) {
		return c, err
	}
	return c, nil
}

// merged is the engine of a job with the figures that are known for its vehicle now.
func merged(of, now engine.Engine) engine.Engine {
	for _, s := range now.Specs {
		of = of.WithSpec(s)
	}
	return of
}

// load reads a job with its worksheet; it has answered when ok is false.
func (s *Pages) load(w http.ResponseWriter, r *http.Request) (it jobs.Loaded, c worksheet.Case, ok bool) {
	if it, ok = s.Load(w, r); !ok {
		return it, c, false
	}
	c, err := CaseOf(r.Context(), s.Pages, it)
	if err != nil {
		s.FailStore(w, r, err)
		return it, c, false
	}
	return it, c, true
}
