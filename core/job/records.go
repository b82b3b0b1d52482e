package job

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// day is the format of a date in a record.
const day = "2006-01-02"

// Records returns what is known of the parts that belong in the engine now: the records of the vehicle,
// with those of new parts in place of the old. The age of a new part counts from the odometer of the
// job and the day of the renewal.
func (j Job) Records() []part.Record {
	records := slices.Clone(j.Vehicle.Parts)
	for _, e := range j.Ledger.InOrder() {
		if r := e.Renewal(); r != nil {
			for _, one := range r.Parts {
				records = WithRecord(records, j.Renewed(records, one, e))
			}
		}
	}
	return records
}

// Renewed returns the record of a new part that an entry fitted.
func (j Job) Renewed(records []part.Record, one evidence.Renewed, e evidence.Entry) part.Record {
	was, _ := part.For(records, one.Out.Kind(), one.Place)
	was.Kind, was.Place = one.Out.Kind(), one.Place
	return was.Renewed(one.Make, j.Distance, e.Done.Format(day))
}

// Fitted returns records together with the new parts of several jobs of one vehicle, the oldest job first. A record of a
// later day than the renewal stays.
func Fitted(records []part.Record, jobs []Job) []part.Record {
	for _, j := range jobs {
		for _, e := range j.Ledger.InOrder() {
			r := e.Renewal()
			if r == nil {
				continue
			}
			for _, one := range r.Parts {
				fresh := j.Renewed(records, one, e)
				if have, ok := part.For(records, fresh.Kind, fresh.Place); !ok || have.Place != fresh.Place || have.FittedOn <= fresh.FittedOn {
					records = WithRecord(records, fresh)
				}
			}
		}
	}
	return records
}

// WithRecord returns the records with one added, in place of an older one of the same part.
func WithRecord(records []part.Record, r part.Record) []part.Record {
	kept := slices.DeleteFunc(slices.Clone(records), func(have part.Record) bool { return have.Kind == r.Kind && have.Place == r.Place })
	return append(kept, r)
}

// RenewedPlaces lists the parts that any entry of the ledger renewed, withdrawn ones included.
func (j Job) RenewedPlaces() (all []RenewedPlace) {
	for _, e := range j.Ledger {
		if r := e.Renewal(); r != nil {
			for _, one := range r.Parts {
				if at := (RenewedPlace{one.Out.Kind(), one.Place}); !slices.Contains(all, at) {
					all = append(all, at)
				}
			}
		}
	}
	return all
}

// RenewedPlace is a part that was renewed, by its kind and place.
type RenewedPlace struct {
	Kind  engine.Kind
	Place engine.Place
}
