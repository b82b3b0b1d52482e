package web_test

import (
	"bytes"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"glenmist/core/casefile"
)

func upload(t *testing.T, name string, file io.Reader, fields ...string) answer {
	t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	for _, f := range fields {
		_ = form.WriteField(f, "yes")
	}
	part, err := form.CreateFormFile("file", name)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := io.Copy(part, file); err != nil {
		t.Fatal(err)
	}
	_ = form.Close()
	r := httptest.NewRequestWithContext(t.Context(), http.MethodPost, "/jobs/import", &body)
	r.Header.Set("Content-Type", form.FormDataContentType())
	return do(t, r)
}

func TestExportAndImport(t *testing.T) {
	file := get(t, "/jobs/"+numbers["stayed"]+"/export")
	if d := file.Header.Get("Content-Disposition"); !strings.Contains(d, "glenmist-"+numbers["stayed"]+".json") {
		t.Errorf("disposition %q", d)
	}
	want, err := casefile.Read(strings.NewReader(file.body))
	if err != nil {
		t.Fatal(err)
	}
	taken := upload(t, "a.json", strings.NewReader(file.body))
	if taken.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a number that is in use answers %d", taken.StatusCode)
	}
	taken.has(t, "a job number that is free")
	a := upload(t, "a.json", strings.NewReader(file.body), "renumber")
	if a.StatusCode != http.StatusSeeOther {
		t.Fatalf("import answers %d", a.StatusCode)
	}
	rec, err := jobs.Job(t.Context(), strings.TrimPrefix(a.Header.Get("Location"), "/jobs/"))
	if err != nil {
		t.Fatal(err)
	}
	rec.Job.Number = want.Number
	var again strings.Builder
	if err := casefile.Write(&again, rec.Job); err != nil || again.String() != file.body {
		t.Errorf("imported as %s, %v", again.String(), err)
	}
	for name, c := range map[string]struct {
		file  io.Reader
		code  int
		words string
	}{
		"broken":        {strings.NewReader(file.body[:200]), 422, "well-formed JSON"},
		"newer":         {strings.NewReader(strings.Replace(file.body, `"version": 8`, `"version": 9`, 1)), 422, "a newer Glenmist"},
		"invalid UTF-8": {strings.NewReader(strings.Replace(file.body, "Uneven", "Un\xffeven", 1)), 422, "UTF-8"},
		"of 50 MB":      {io.LimitReader(spaces{}, 50<<20), 422, "at most 2 MB"},
		"of 2.5 MB":     {io.LimitReader(spaces{}, 5<<19), 422, "at most 2 MB"},
	} {
		a := upload(t, "a.json", c.file)
		if a.StatusCode != c.code {
			t.Errorf("%s answers %d, want %d", name, a.StatusCode, c.code)
		}
		a.has(t, c.words)
	}
}

type spaces struct{}

func (spaces) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = ' '
	}
	return len(p), nil
}
