package casefile

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
)

const formats = "../../docs/formats"

func examples(t testing.TB) map[string][]byte {
	t.Helper()
	paths, err := filepath.Glob(filepath.Join(formats, "examples", "*.json"))
	old, err2 := filepath.Glob(filepath.Join(formats, "examples", "v[1-7]", "*.json"))
	if err != nil || err2 != nil || len(paths) < 9 || len(old) < 12 {
		t.Fatalf("examples: %v, %v, %v, %v", paths, old, err, err2)
	}
	paths = append(paths, old...)
	files := map[string][]byte{}
	for _, path := range paths {
		data, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		name := filepath.Base(path)
		if was := filepath.Base(filepath.Dir(path)); was != "examples" {
			name = was + "/" + name
		}
		files[name] = data
	}
	return files
}

func schema(t testing.TB) *jsonschema.Schema {
	t.Helper()
	c := jsonschema.NewCompiler()
	c.AssertFormat()
	s, err := c.Compile(filepath.Join(formats, "casefile.schema.json"))
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func validate(t testing.TB, s *jsonschema.Schema, data []byte) error {
	t.Helper()
	v, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	return s.Validate(v)
}

// Every example reads, fits the published schema by a standard validator, and is
// written again to the letter; those of older versions as the same job of this one.
func TestExamples(t *testing.T) {
	s := schema(t)
	for name, data := range examples(t) {
		if err := validate(t, s, data); err != nil {
			t.Errorf("%s does not fit the schema: %v", name, err)
		}
		j, err := Read(bytes.NewReader(data))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		var again bytes.Buffer
		if err := Write(&again, j); err != nil {
			t.Fatal(err)
		}
		if was, _, older := strings.Cut(name, "/"); older {
			newer := bytes.Replace(data, []byte(`"version": `+was[1:]), fmt.Appendf(nil, `"version": %d`, Version), 1)
			if k, err := Read(bytes.NewReader(newer)); err != nil || bytes.Equal(newer, data) || !reflect.DeepEqual(j, k) {
				t.Errorf("%s means something else as version %d: %v", name, Version, err)
			}
			continue
		}
		if !bytes.Equal(again.Bytes(), data) {
			t.Errorf("%s is not written as it was read", name)
		}
	}
}

// Every word that the ledger takes is in the schema: tests and their answers, findings, measures,
// signs and conditions.
func TestSchemaKnowsTheWords(t *testing.T) {
	data, err := os.ReadFile(filepath.Join(formats, "casefile.schema.json"))
	if err != nil {
		t.Fatal(err)
	}
	var tree any
	if err := json.Unmarshal(data, &tree); err != nil {
		t.Fatal(err)
	}
	known := map[string]bool{}
	var walk func(any, bool)
	walk = func(v any, word bool) {
		switch v := v.(type) {
		case string:
			known[v] = known[v] || word
		case []any:
			for _, x := range v {
				walk(x, word)
			}
		case map[string]any:
			for name, x := range v {
				walk(x, word || name == "enum")
			}
		}
	}
	walk(tree, false)
	var words []string
	for _, test := range evidence.Tests {
		words = append(words, string(test.ID))
		for _, r := range test.Results {
			words = append(words, string(r.ID))
		}
	}
	for _, f := range evidence.Findings {
		words = append(words, string(f.Finding))
	}
	for _, m := range evidence.Measures {
		words = append(words, string(m.ID))
	}
	for _, c := range evidence.Conditions {
		words = append(words, string(c.Condition))
	}
	for _, w := range words {
		if !known[w] {
			t.Errorf("the schema does not know %q", w)
		}
	}
}

// What is wrong with a file is said with its path. inSchema says whether the
// schema sees it as well; what depends on several fields, it cannot.
func TestRefused(t *testing.T) {
	good := string(examples(t)["followed.json"])
	s := schema(t)
	for name, c := range map[string]struct {
		old, new        string
		field, expected string
		inSchema        bool
	}{
		"newer version":    {`"version": 8`, `"version": 9`, "version", "1 to 8", true},
		"older than any":   {`"version": 8`, `"version": 0`, "version", "1 to 8", true},
		"no version":       {`"version": 8,`, ``, "version", "1", true},
		"another format":   {`"glenmist-case"`, `"something"`, "format", "glenmist-case", true},
		"unknown field":    {`"complaint":`, `"colour": "red", "complaint":`, "job.colour", "a field of the case file format", true},
		"unknown deep":     {`"fresh": true`, `"fresh": true, "warm": 1`, "job.ledger[1].counters.warm", "a field of the case file format", true},
		"unknown in entry": {`"counters": {`, `"colour": 1, "counters": {`, "job.ledger[1].colour", "a field of the case file format", true},
		"two bodies":       {`"counters": {`, `"watch": {"cylinders": []}, "counters": {`, "job.ledger[1]", "exactly one of beside, check", true},
		"entry is text":    {`"ledger": [`, `"ledger": ["x",`, "job.ledger[0]", "an object", true},
		"number as text":   {`"revolutions": 3000`, `"revolutions": "many"`, "job.ledger[1].counters.revolutions", "a whole number", true},
		"not a code":       {`"code": "P0304"`, `"code": "misfire"`, "job.ledger[0].codes.read[0].code", "a trouble code", true},
		"cylinder 9":       {`"code": "P0304"`, `"code": "P0309"`, "job.ledger[0].codes.read[0].code", "1 to 4", false},
		"count too high":   {`"revolutions": 3000`, `"revolutions": 100`, "job.ledger[1].counters.counts[3]", "0 to 50", false},
		"doubled cylinder": {"1,\n          3,\n          4,\n          2", "1,\n          3,\n          3,\n          2", "job.vehicle.engine.firing_order", "exactly once", true},
		"wrong part place": {"\"kind\": \"coil\",\n      \"at\": \"cyl-4\"", "\"kind\": \"coil\",\n      \"at\": \"cyl-3\"", "parts[1]", "C2 at cylinder 4", false},
		"reserved number":  {`"number": "demo-4"`, `"number": "import"`, "job.number", "the job's number", true},
		"no such school":   {`"complaint": "`, `"school": "night", "complaint": "`, "job.school", "usual-order", true},
		"always and now":   {`"complaint": "`, `"signs": ["always-there"], "complaint": "`, "job.signs", "or that it is always there", false},
		"not so sure": {`"by": "Wyn Fellgarth",
        "codes"`, `"by": "Wyn Fellgarth", "certainty": "hoped",
        "codes"`, "job.ledger[0].certainty", "think-so", true},
		"number as a path": {`"number": "demo-4"`, `"number": "../jobs"`, "job.number", "letters, digits", true},
		"NUL in a text":    {`"complaint": "`, `"complaint": "\u0000`, "job.complaint", "without control characters", true},
		"no reason to be":  {`"by": "Wyn Fellgarth",`, `"by": "",`, "job.by", "the name", true},
	} {
		bad := strings.Replace(good, c.old, c.new, 1)
		if bad == good {
			t.Errorf("%s: nothing was changed", name)
			continue
		}
		_, err := Read(strings.NewReader(bad))
		got := invalid.From(err)
		if len(got) == 0 || got[0].Field != c.field || !strings.Contains(got[0].Expected, c.expected) {
			t.Errorf("%s: %v, want %q expected at %s", name, got, c.expected, c.field)
		}
		if seen := validate(t, s, []byte(bad)) != nil; seen != c.inSchema {
			t.Errorf("%s: the schema refuses it: %v, want %v", name, seen, c.inSchema)
		}
	}
}

// The list of parts may stand in any order.
func TestPartsInAnyOrder(t *testing.T) {
	data := examples(t)["followed.json"]
	want, err := Read(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	var file map[string]any
	if err := json.Unmarshal(data, &file); err != nil {
		t.Fatal(err)
	}
	parts := file["parts"].([]any)
	slices.Reverse(parts)
	turned, err := json.Marshal(file)
	if err != nil {
		t.Fatal(err)
	}
	if got, err := Read(bytes.NewReader(turned)); err != nil || len(parts) < 4 || !reflect.DeepEqual(got, want) {
		t.Errorf("%d parts the other way round: %v", len(parts), err)
	}
}

func TestBroken(t *testing.T) {
	for name, c := range map[string]struct{ text, field, expected string }{
		"empty":         {"", "file", "well-formed JSON"},
		"cut off":       {`{"format": "glenmist-case", "version": 2, "job": {`, "job", "well-formed JSON"},
		"not JSON":      {"P0302", "file", "well-formed JSON"},
		"a list":        {"[]", "file", "an object"},
		"invalid UTF-8": {"{\"format\": \"glenmist-\xff\"}", "format", "UTF-8"},
		"a name twice":  {`{"format": "glenmist-case", "format": "glenmist-case"}`, "format", "no name twice"},
		"two values":    {`{"format": "glenmist-case", "version": 1} {}`, "file", "well-formed JSON"},
		"no job":        {`{"format": "glenmist-case", "version": 1}`, "job.number", "the job's number"},
	} {
		_, err := Read(strings.NewReader(c.text))
		got := invalid.From(err)
		if len(got) == 0 || got[0].Field != c.field || !strings.Contains(got[0].Expected, c.expected) {
			t.Errorf("%s: %v, want %q expected at %q", name, got, c.expected, c.field)
		}
	}
}

// endless is a file that never ends; what is read of it is counted.
type endless struct{ read int }

func (e *endless) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = ' '
	}
	e.read += len(p)
	return len(p), nil
}

func TestTooLarge(t *testing.T) {
	var file endless
	_, err := Read(&file)
	if got := invalid.From(err); len(got) != 1 || !strings.Contains(got[0].Expected, "2 MB") {
		t.Errorf("a file without end: %v", err)
	}
	if file.read > 2*MaxBytes {
		t.Errorf("read %d bytes of it", file.read)
	}
}

// Whatever reads is valid, fits the schema, and is written so that it reads again.
func FuzzRead(f *testing.F) {
	for _, data := range examples(f) {
		f.Add(data)
	}
	f.Add([]byte(`{"format":"glenmist-case","version":1,"job":{"ledger":[{"seq":1}]}}`))
	s := schema(f)
	f.Fuzz(func(t *testing.T, data []byte) {
		j, err := Read(bytes.NewReader(data))
		if err != nil {
			for _, e := range invalid.From(err) {
				if e.Field == "" || e.Expected == "" {
					t.Errorf("an error without a field or an expectation: %+v", e)
				}
			}
			return
		}
		var out bytes.Buffer
		if err := Write(&out, j); err != nil {
			t.Fatal(err)
		}
		if err := validate(t, s, out.Bytes()); err != nil {
			t.Errorf("what was read does not fit the schema: %v", err)
		}
		if _, err := Read(&out); err != nil {
			t.Errorf("what was written does not read: %v", err)
		}
	})
}
