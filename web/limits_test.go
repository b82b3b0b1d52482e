package web_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"glenmist/web/page"
)

// What is sent too often is refused for a while, by person and address, with the form as it was typed. Behind a trusted
// proxy the address is the client's; from others the header is ignored.
func TestTooManyRequests(t *testing.T) {
	w := staffed(t, func(c *page.Config) {
		c.Limits = &page.Limits{SignIns: 2, Uploads: 2, Imports: 1}
		c.Proxies = []netip.Prefix{netip.MustParsePrefix("10.0.0.0/8")}
	})
	try := func(from, forwarded, name string) int {
		r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, "/sign-in", strings.NewReader(values("name", name, "password", "wrong").Encode()))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Host, r.RemoteAddr = "127.0.0.1", from+":4711"
		r.Header.Set("X-Forwarded-For", forwarded)
		a := through(t, w.h, r)
		if a.StatusCode == http.StatusTooManyRequests {
			if a.has(t, "sent too often", `value="`+name+`"`); strings.Contains(a.body, "wrong") {
				t.Error("the password comes back")
			}
		}
		return a.StatusCode
	}
	for i, c := range []struct {
		from, forwarded, name string
		want                  int
	}{
		{"192.0.2.1", "", "the lead", 401}, {"192.0.2.1", "198.51.100.1", "The Lead", 401}, {"192.0.2.1", "198.51.100.2", "the lead", 429},
		{"192.0.2.1", "", "the technician", 401}, {"192.0.2.2", "", "the lead", 401},
		{"10.1.1.1", "203.0.113.5, 198.51.100.7", "the lead", 401}, {"10.1.1.2", "spoofed, 198.51.100.7, 10.9.9.9", "the lead", 401},
		{"10.1.1.1", "1.1.1.1, 198.51.100.7", "the lead", 429}, {"10.1.1.1", "198.51.100.8", "the lead", 401},
	} {
		if got := try(c.from, c.forwarded, c.name); got != c.want {
			t.Errorf("try %d answers %d, want %d", i, got, c.want)
		}
	}
	session := cookie(t, w.send("/sign-in", values("name", "the administrator", "password", password)), "session")
	upload := func(path, field string) answer {
		var body bytes.Buffer
		form := multipart.NewWriter(&body)
		_ = form.WriteField("renumber", "kept")
		part, _ := form.CreateFormFile(field, "x.json")
		_, _ = part.Write([]byte("{}"))
		_ = form.Close()
		r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, path, &body)
		r.Header.Set("Content-Type", form.FormDataContentType())
		r.Host = "127.0.0.1"
		r.AddCookie(session)
		return through(t, w.h, r)
	}
	if a := upload("/jobs/import", "file"); a.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("the first import answers %d", a.StatusCode)
	}
	second := upload("/jobs/import", "file")
	if second.has(t, "sent too often", `value="kept"`, "Choose the file again"); second.StatusCode != http.StatusTooManyRequests || second.Header.Get("Retry-After") == "" {
		t.Errorf("the second import answers %d", second.StatusCode)
	}
}
