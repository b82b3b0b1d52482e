package jobs

import (
	"net/http"
	"net/url"

	"glenmist/core/course"
	"glenmist/web/draw"
	"glenmist/web/page"
)

// coursePage is the course of a job: how the entries changed what is suspected.
type coursePage struct {
	page.Base
	At, Number string
	Course     *draw.Course
}

// ShowCourse shows the course of a job. The page of the job fetches the picture from here, because
// it costs one assessment for each entry.
func (s *Pages) ShowCourse(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	j := it.Record.Job
	p := coursePage{Base: s.Base(r, "Course of "+j.Vehicle.Fleet), At: "/jobs/" + url.PathEscape(j.Number), Number: j.Number}
	p.Course = draw.NewCourse(course.Beliefs(it.Shop.Beliefs(), j))
	s.Render(w, r, http.StatusOK, "course.html", p)
}
