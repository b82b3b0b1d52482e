package jobs

import (
	"context"

	"glenmist/core/engine"
	"glenmist/store"
)

// keep stores the maker's ranges of a form with the vehicle's engine. A failure does not
// affect the recorded entry.
func (s *Pages) keep(ctx context.Context, rec store.Record, specs []engine.Spec) {
	known, err := s.Jobs.Vehicle(ctx, rec.Job.Vehicle.Fleet)
	if err != nil {
		s.Log.Warn("ranges not kept", "vehicle", rec.Job.Vehicle.Fleet, "error", err)
		return
	}
	v, changed := known.Vehicle, false
	for _, spec := range specs {
		if have, ok := v.Engine.Spec(spec.Of); !ok || have != spec {
			v.Engine, changed = v.Engine.WithSpec(spec), true
		}
	}
	if !changed {
		return
	}
	if _, err := s.Jobs.SaveVehicle(ctx, v, known.Version); err != nil {
		s.Log.Warn("ranges not kept", "vehicle", v.Fleet, "error", err)
	}
}
