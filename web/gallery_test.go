package web_test

import (
	"net/http"
	"regexp"
	"strings"
	"testing"
)

// The gallery has every work view empty and refused. A refused form names what was expected, and keeps
// what was typed.
func TestGalleryHasEveryStateOfEveryView(t *testing.T) {
	index := get(t, "/gallery")
	index.has(t, "This photo was removed", "more do not fit on this sheet", "Nothing holds")
	links := regexp.MustCompile(`/gallery/([a-z]+)/(empty|refused)`).FindAllStringSubmatch(index.body, -1)
	if len(links) < 36 {
		t.Fatalf("%d states are listed", len(links))
	}
	for _, l := range links {
		a := get(t, l[0])
		switch {
		case l[2] == "empty" && a.StatusCode != http.StatusOK:
			t.Errorf("%s answers %d", l[0], a.StatusCode)
		case l[2] == "refused" && a.StatusCode != http.StatusUnprocessableEntity:
			t.Errorf("%s answers %d", l[0], a.StatusCode)
		case l[2] == "refused" && l[1] != "chain" && l[1] != "worksheet" && !strings.Contains(strings.ToLower(a.readable()), "expected"):
			t.Errorf("%s names nothing that was expected", l[0])
		}
	}
	if a := get(t, "/gallery/codes/broken"); a.StatusCode != http.StatusNotFound {
		t.Errorf("an unknown state answers %d", a.StatusCode)
	}
}
