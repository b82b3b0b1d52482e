package archive

import (
	"archive/zip"
	"bytes"
	"errors"
	"os"
	"strings"
	"testing"

	"glenmist/core/invalid"
	"glenmist/spool"
)

// zipped is a zip of some files.
func zipped(t testing.TB, files ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	out := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := out.Create(files[i])
		if err == nil {
			_, err = w.Write([]byte(files[i+1]))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := out.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// What a zip must not hold is said before anything of it is read: names that lead elsewhere, files
// twice, too many, too large when unpacked.
func TestUnsafeZipsAreRefused(t *testing.T) {
	many := []string{}
	for range maxFiles + 1 {
		many = append(many, "photos/1.jpg", "x")
	}
	for name, c := range map[string]struct {
		data     []byte
		expected string
	}{
		"good":              {zipped(t, "case.json", "{}", "index.json", `{"photos":[],"captures":[]}`, "photos/1.jpg", "x", "captures/12.csv", "y", "captures/3", "z"), ""},
		"no index":          {zipped(t, "case.json", "{}"), ""},
		"not a zip":         {[]byte("PK\x03\x04 and no more"), "a zip that is whole"},
		"nothing":           {nil, "a zip that is whole"},
		"no case":           {zipped(t, "index.json", "{}"), "case.json in the zip"},
		"a way out":         {zipped(t, "case.json", "{}", "../x", "x"), "case.json, index.json"},
		"an absolute name":  {zipped(t, "case.json", "{}", "/etc/passwd", "x"), "case.json, index.json"},
		"another ending":    {zipped(t, "case.json", "{}", "photos/1.svg", "x"), "case.json, index.json"},
		"twice":             {zipped(t, "case.json", "{}", "case.json", "{}"), "each once"},
		"too many":          {zipped(t, many...), "at most"},
		"a case too large":  {zipped(t, "case.json", strings.Repeat(" ", 3<<20)), "at most 2097152 bytes"},
		"an index of noise": {zipped(t, "case.json", "{}", "index.json", "[1"), "a list of photos and captures"},
		"an unknown field":  {zipped(t, "case.json", "{}", "index.json", `{"videos":[]}`), "a list of photos and captures"},
	} {
		_, err := open(bytes.NewReader(c.data), int64(len(c.data)))
		bad := invalid.From(err)
		if c.expected == "" && err != nil || c.expected != "" && (len(bad) != 1 || !strings.Contains(bad[0].Expected, c.expected)) {
			t.Errorf("%s: %v, want %q", name, err, c.expected)
		}
	}
	if Is(bytes.NewReader([]byte("PK"))) || Is(bytes.NewReader([]byte(`{"format"`))) || !Is(bytes.NewReader(zipped(t, "case.json", "{}"))) {
		t.Error("what a zip is")
	}
	if _, err := open(bytes.NewReader(nil), MaxBytes+1); err == nil {
		t.Error("a zip of any size is opened")
	}
}

func FuzzOpen(f *testing.F) {
	f.Add(zipped(f, "case.json", "{}", "index.json", `{"photos":[{"file":"photos/1.jpg","tag":"P1","by":"x"}],"captures":[]}`, "photos/1.jpg", "x"))
	f.Add([]byte("PK\x03\x04"))
	f.Fuzz(func(t *testing.T, data []byte) {
		a, err := open(bytes.NewReader(data), int64(len(data)))
		if err != nil {
			if len(invalid.From(err)) == 0 {
				t.Fatal(err)
			}
			return
		}
		if a.files[caseName] == nil {
			t.Fatal("opened without a case file")
		}
	})
}

// Whatever an index says, it is refused with a field, or all that it names is made ready and given
// back.
func FuzzRead(f *testing.F) {
	job, err := os.ReadFile("../docs/formats/examples/followed.json")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(`{"photos":[{"file":"photos/1.jpg","tag":"P1","by":"x","made":"2026-01-02T03:04:05Z"}],"captures":[]}`, []byte("x"), "time,a\n0,1\n")
	f.Add(`{"photos":[],"captures":[{"file":"captures/1.csv","name":"a.csv","by":"x","made":"2026-01-02T03:04:05Z","factor":-1,"turn":99}]}`, []byte{}, "")
	f.Add(`{"photos":[{"file":"../1.jpg","tag":"Z9"}],"captures":[{"file":"captures/1.csv"}]}`, []byte{}, "")
	f.Fuzz(func(t *testing.T, index string, photo []byte, capture string) {
		data := zipped(t, "case.json", string(job), "index.json", index, "photos/1.jpg", string(photo), "captures/1.csv", capture)
		pool := spool.New(1 << 20)
		a, err := Read(t.Context(), bytes.NewReader(data), int64(len(data)), pool, nil)
		if err != nil {
			if !invalid.Is(err) && !errors.Is(err, spool.ErrFull) {
				t.Fatal(err)
			}
		} else {
			a.Close()
		}
		if pool.Used() != 0 {
			t.Fatalf("%d bytes were not given back", pool.Used())
		}
	})
}
