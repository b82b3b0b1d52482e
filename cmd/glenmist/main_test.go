package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"glenmist/store/cluster"
)

const examples = "../../docs/formats/examples/"

// typed is what stands on standard input: a password.
const typed = "heather gate copper thaw\n"

// call runs the command line and returns its exit code, its standard output and
// its standard error.
func call(t *testing.T, args ...string) (code int, out, errs string) {
	t.Helper()
	var o, e bytes.Buffer
	code = run(t.Context(), args, strings.NewReader(typed), &o, &e)
	return code, o.String(), e.String()
}

func TestAnswers(t *testing.T) {
	for _, c := range []struct {
		args  string
		code  int
		out   string
		words string // on standard error
	}{
		{"version", 0, "glenmist dev", ""},
		{"version --licences", 0, "Apache", ""},
		{"faults", 0, "coil.cracked", ""},
		{"steps", 0, "swap.coil", ""},
		{"diagnose " + examples + "followed.json", 0, "look.plug-and-boot", ""},
		{"diagnose " + examples + "stayed.json", 0, "plug.worn-gap", ""},
		{"worksheet " + examples + "repaired.json", 1, "", "signed verdict"},
		{"worksheet " + examples + "renewed.json", 0, "Torque of the plug", ""},
		{"worksheet", 2, "", "accepts 1 arg"},
		{"--help", 0, "serve", ""},
		{"diagnose none.json", 1, "", "none.json"},
		{"diagnose ../../README.md", 1, "", "file: expected well-formed JSON"},
		{"diagnose", 2, "", "accepts 1 arg"},
		{"diagnose a b", 2, "", "accepts 1 arg"},
		{"dance", 2, "", "unknown command"},
		{"", 2, "", "expected a command"},
		{"faults --yaml", 2, "", "unknown flag"},
		{"serve", 2, "", "GLENMIST_DATABASE_URL"},
		{"user", 2, "", "user add"},
		{"user add", 2, "", "accepts 1 arg"},
		{"migrate --database-url nonsense", 1, "", "postgres://"},
		{"demo --log-level loud", 2, "", "debug, info, warn or error"},
		{"demo --reset --database-url postgres://127.0.0.1:1/x", 2, "", "is left alone"},
		{"demo --vehicle usb:1", 2, "", "expected can:can0, tcp:HOST:PORT"},
		{"serve --vehicle own", 2, "", "expected can:can0, tcp:HOST:PORT"},
		{"vehicle --pace 0", 2, "", "expected more than 0 and up to 120"},
		{"vehicle --job none.json", 1, "", "none.json"},
		{"vehicle --listen nonsense", 1, "", "--listen chooses another"},
	} {
		code, out, errs := call(t, strings.Fields(c.args)...)
		if code != c.code || !strings.Contains(out, c.out) || !strings.Contains(errs, c.words) || c.code == 0 && errs != "" {
			t.Errorf("glenmist %s: exit %d, out %.200q, errors %.200q", c.args, code, out, errs)
		}
	}
}

// With --json standard output carries JSON and nothing else.
func TestJSON(t *testing.T) {
	for args, key := range map[string]string{
		"faults --json": "id", "steps --json": "id", "diagnose --json " + examples + "gone.json": "suspects",
		"worksheet --json " + examples + "renewed.json": "steps",
	} {
		code, out, errs := call(t, strings.Fields(args)...)
		var v any
		if err := json.Unmarshal([]byte(out), &v); err != nil || code != 0 || errs != "" {
			t.Errorf("glenmist %s: exit %d, %v, %s", args, code, err, errs)
			continue
		}
		if list, ok := v.([]any); ok {
			v = list[0]
		}
		if _, ok := v.(map[string]any)[key]; !ok {
			t.Errorf("glenmist %s: no %q in %.200s", args, key, out)
		}
	}
}

// A case file goes into a database and comes out of it as it went in.
func TestImportAndExport(t *testing.T) {
	c, err := cluster.StartThrowaway(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Stop() }()
	t.Setenv("GLENMIST_DATABASE_URL", c.URL)
	t.Setenv("GLENMIST_MIGRATE_URL", c.OwnerURL)
	t.Setenv("GLENMIST_ADMIN_URL", c.AdminURL)
	dir := t.TempDir()
	file := examples + "stayed.json"
	want, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	for _, step := range []struct {
		args string
		code int
		has  string
	}{
		{"import " + file, 1, ""}, // no schema yet
		{"migrate", 0, "17 migrations run"},
		{"migrate", 0, "; 0 migrations run"},
		{"import " + file, 0, "demo-3"},
		{"import " + file, 1, ""},
		{"import --renumber " + file, 0, "2026-"},
		{"export none", 1, ""},
		{"export demo-3", 0, string(want)},
		{"export", 2, ""},
		{"export demo-3 --all " + dir, 2, ""},
		{"export --all " + filepath.Join(dir, "all"), 0, "2 case files"},
		{"export --all " + filepath.Join(dir, "all"), 1, ""}, // it replaces nothing
		{"backup " + filepath.Join(dir, "b.zip"), 0, "2 jobs"},
		{"restore " + filepath.Join(dir, "b.zip"), 0, "Restored 2 jobs"},
		{"restore " + file, 1, ""},
		{"export demo-3", 0, string(want)},
		{"user list", 0, ""},
		{"user add Oda --role boss", 2, ""},
		{"user add Oda --role administrator", 0, "Oda is added as administrator."},
		{"user add oda", 1, ""},
		{"user reset ODA", 0, "they are signed out everywhere"},
		{"user reset Bram", 1, ""},
		{"user reset", 2, ""},
		{"user list", 0, "Oda  administrator  never signed in"},
		{"serve --listen 127.0.0.1:0 --trusted-proxy all", 2, ""},
		{"serve --listen 127.0.0.1:0 --tls-cert " + file, 2, ""},
		{"serve --listen 127.0.0.1:0 --keep-years 101", 2, ""},
		{"serve --listen 0.0.0.0:0", 2, ""}, // passwords would cross the network readable
	} {
		code, out, errs := call(t, strings.Fields(step.args)...)
		if code != step.code || !strings.Contains(out, step.has) {
			t.Errorf("glenmist %s: exit %d, %.200q, %s", step.args, code, out, errs)
		}
	}
}

// tapIn signs somebody in to the demo by one tap, and returns the page that it leads to.
func tapIn(client *http.Client, address, name string) (*http.Response, error) {
	page, err := client.Get(address + "/jobs") // leads to the sign-in
	if err != nil {
		return nil, err
	}
	body, err := io.ReadAll(page.Body)
	if err = errors.Join(err, page.Body.Close()); err != nil {
		return nil, err
	}
	id := regexp.MustCompile(`name="person" value="(\d+)">` + name).FindSubmatch(body)
	if id == nil {
		return nil, fmt.Errorf("%s is not offered in %s", name, body)
	}
	return client.PostForm(address+"/sign-in", url.Values{"how": {"demo"}, "person": {string(id[1])}, "back": {"/jobs"}})
}

// The demo brings its own database, says where it is, stops when told to, and
// keeps its data for the next time.
func TestDemo(t *testing.T) {
	dir, err := os.MkdirTemp("", "glenmist-demo-")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	// A job is opened in the first run: it outlives server and PostgreSQL, and a
	// reset takes it away.
	for i, there := range []bool{false, true, false} {
		reset := i == 2
		args := []string{"demo", "--listen", "127.0.0.1:0", "--state", filepath.Join(dir, "state"), "--backup-dir", filepath.Join(dir, "backups"), fmt.Sprintf("--reset=%v", reset)}
		ctx, stop := context.WithCancel(t.Context())
		r, w := io.Pipe()
		var errs bytes.Buffer
		ended := make(chan int, 1)
		go func() {
			code := run(ctx, args, strings.NewReader(""), w, &errs)
			_ = w.Close()
			ended <- code
		}()
		line := make([]byte, 200)
		n, err := r.Read(line)
		if err != nil {
			stop()
			t.Fatalf("exit %d: %s", <-ended, errs.String())
		}
		address := regexp.MustCompile(`http://\S+`).FindString(string(line[:n]))
		client := &http.Client{}
		if client.Jar, err = cookiejar.New(nil); err != nil {
			t.Fatal(err)
		}
		page, err := tapIn(client, address, "Oda Quillrigg")
		if err != nil {
			t.Fatal(err)
		}
		body, _ := io.ReadAll(page.Body)
		_ = page.Body.Close()
		if strings.Contains(string(body), ">T-1<") != there || !strings.Contains(string(body), ">B-21<") {
			t.Errorf("run %d: the job of the first run is shown: %v", i+1, !there)
		}
		opened, err := client.PostForm(address+"/jobs", url.Values{"fleet": {"T-1"}, "what": {"van"}, "distance": {"1000"}, "complaint": {"shakes"},
			"by": {"Wyn"}, "pattern": {"four-across"}})
		if err != nil {
			t.Fatal(err)
		}
		_ = opened.Body.Close()
		if opened.StatusCode != http.StatusOK {
			t.Errorf("opening a job answers %d", opened.StatusCode)
		}
		// The private PostgreSQL is backed up while it serves, and not restored.
		state, file := filepath.Join(dir, "state"), filepath.Join(dir, "b.zip")
		if i == 0 {
			if code, out, errs := call(t, "backup", "--state", state, file); code != 0 || !strings.Contains(out, "restored and compared") {
				t.Errorf("backup: exit %d, %s %s", code, out, errs)
			}
			if code, _, errs := call(t, "restore", "--state", state, file); code != 1 || !strings.Contains(errs, "stop Glenmist first") {
				t.Errorf("restore while it serves: exit %d, %s", code, errs)
			}
		}
		stop()
		go func() { _, _ = io.Copy(io.Discard, r) }()
		if code := <-ended; code != 0 {
			t.Errorf("exit %d: %s", code, errs.String())
		}
		if i == 1 {
			if code, out, errs := call(t, "restore", "--state", state, file); code != 0 || !strings.Contains(out, "is the database glenmist_before_") {
				t.Errorf("restore: exit %d, %s %s", code, out, errs)
			}
		}
	}
}
