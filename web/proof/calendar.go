package proof

import (
	"fmt"
	"net/http"
	"net/url"

	ics "github.com/arran4/golang-ical"

	"glenmist/core/evidence"
	"glenmist/store"
)

// Calendar sends the rechecks as an iCalendar file (RFC 5545): an all-day event for each.
func (s *Pages) Calendar(w http.ResponseWriter, r *http.Request) {
	list, err := s.Jobs.Rechecks(r.Context(), evidence.DayOf(s.Now().AddDate(10, 0, 0)))
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "text/calendar; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="rechecks.ics"`)
	if err := s.calendar(list, s.Home(r)).SerializeTo(w); err != nil {
		s.Log.Warn("calendar", "error", err)
	}
}

// calendar makes the calendar of rechecks.
func (s *Pages) calendar(list []store.Recheck, home string) *ics.Calendar {
	c := ics.NewCalendarFor("Glenmist")
	c.SetProductId("-//Glenmist//Rechecks//EN")
	c.SetMethod(ics.MethodPublish)
	c.SetName("Rechecks")
	for _, one := range list {
		day, _ := one.Due.Time()
		e := c.AddEvent(fmt.Sprintf("recheck-%s@glenmist", one.Job.Number))
		e.SetDtStampTime(s.Now().UTC())
		e.SetAllDayStartAt(day)
		e.SetAllDayEndAt(day.AddDate(0, 0, 1))
		e.SetSummary(fmt.Sprintf("Recheck %s %s", one.Job.Vehicle.Fleet, one.Job.Vehicle.What))
		e.SetDescription(fmt.Sprintf("Job %s: %s", one.Job.Number, one.Status.Words))
		e.SetURL(home + "/jobs/" + url.PathEscape(one.Job.Number))
	}
	return c
}
