package web_test

import (
	"net/http"
	"strings"
	"testing"

	"glenmist/store"
)

// The verdict of an apprentice stands only once a lead has countersigned it; that of a technician stands alone.
func TestApprenticeNeedsCountersignature(t *testing.T) {
	w := staffed(t, nil)
	if w.jobs["stayed"] == "" {
		t.Fatal(w.jobs)
	}
	number := ""
	apprentice, technician, lead := w.signIn("the apprentice"), w.signIn("the technician"), w.signIn("the lead")
	list, err := w.db.FindAll(t.Context(), store.Query{})
	if err != nil {
		t.Fatal(err)
	}
	for _, one := range list {
		if body := w.send("/jobs/"+one.Job.Number+"/verdict", nil, apprentice).body; strings.Contains(body, "is at fault, at") {
			number = one.Job.Number
		}
	}
	if number == "" {
		t.Fatal("no job of the demo can be signed")
	}
	job := "/jobs/" + number
	sign := func(view string, who *http.Cookie) answer {
		return w.send(job+"/"+view, values("version", version2(w, job+"/watch", who)), who)
	}
	if a := sign("verdict", apprentice); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %s", a.StatusCode, a.body)
	}
	w.send(job, nil, apprentice).has(t, "is the verdict of the apprentice, an apprentice", "countersignature of a lead")
	if a := w.send(job+"/worksheet", nil, technician); strings.Contains(a.body, "Set the new") {
		t.Error("the worksheet opens before the verdict stands")
	}
	if a := sign("verdict", apprentice); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("the same verdict again answers %d", a.StatusCode)
	}
	if a := sign("countersign", technician); a.StatusCode != http.StatusForbidden {
		t.Errorf("a technician countersigns: %d", a.StatusCode)
	}
	w.send("/jobs?state=proposed", nil, lead).has(t, number)
	w.send(job+"/countersign", nil, lead).has(t, "signed by the apprentice")
	if a := sign("countersign", lead); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %s", a.StatusCode, a.body)
	}
	w.send(job+"/verdict", nil, lead).has(t, "by the apprentice with the lead")
	w.send(job+"/finding", nil, lead).has(t, "countersigned by the lead")
	if a := sign("countersign", lead); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a second countersignature answers %d", a.StatusCode)
	}
}
