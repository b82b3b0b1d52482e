// Command notices gathers the licences of all third-party work that ends up in
// the binary: the Go modules it links and the npm packages whose work is
// embedded. It writes them to web/static/licences.txt, which is embedded too.
package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
)

// embedded are the npm packages whose work the browser gets; what they are built
// with is not among it.
var embedded = []string{"@alpinejs/csp", "@fontsource-variable/atkinson-hyperlegible-next", "@fontsource-variable/bricolage-grotesque", "bootstrap"}

// mit is the text for a package that names this licence but brings no copy of
// it.
const mit = `Permission is hereby granted, free of charge, to any person obtaining a copy
of this software and associated documentation files (the "Software"), to deal
in the Software without restriction, including without limitation the rights
to use, copy, modify, merge, publish, distribute, sublicense, and/or sell
copies of the Software, and to permit persons to whom the Software is
furnished to do so, subject to the following conditions:

The above copyright notice and this permission notice shall be included in all
copies or substantial portions of the Software.

THE SOFTWARE IS PROVIDED "AS IS", WITHOUT WARRANTY OF ANY KIND, EXPRESS OR
IMPLIED, INCLUDING BUT NOT LIMITED TO THE WARRANTIES OF MERCHANTABILITY,
FITNESS FOR A PARTICULAR PURPOSE AND NONINFRINGEMENT. IN NO EVENT SHALL THE
AUTHORS OR COPYRIGHT HOLDERS BE LIABLE FOR ANY CLAIM, DAMAGES OR OTHER
LIABILITY, WHETHER IN AN ACTION OF CONTRACT, TORT OR OTHERWISE, ARISING FROM,
OUT OF OR IN CONNECTION WITH THE SOFTWARE OR THE USE OR OTHER DEALINGS IN THE
SOFTWARE.
`

func main() {
	if err := write(filepath.Join("web", "static", "licences.txt")); err != nil {
		fmt.Fprintln(os.Stderr, "notices:", err)
		os.Exit(1)
	}
}

func write(path string) error {
	var b strings.Builder
	own, err := os.ReadFile("LICENSE")
	if err != nil {
		return err
	}
	fmt.Fprintf(&b, "Glenmist is under the Apache License 2.0; its text comes first, then the notices of\nall third-party work in this binary.\n\n%s\n", own)
	modules, err := linked()
	if err != nil {
		return err
	}
	for _, m := range modules {
		text, err := licence(m.Dir)
		if err != nil {
			return fmt.Errorf("%s: %w", m.Path, err)
		}
		section(&b, m.Path+" "+m.Version, text)
	}
	goroot, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return err
	}
	text, err := licence(strings.TrimSpace(string(goroot)))
	if err != nil {
		return err
	}
	section(&b, "The Go standard library", text)
	for _, name := range embedded {
		if err := npm(&b, name); err != nil {
			return fmt.Errorf("%s: %w; run npm ci in web/assets first", name, err)
		}
	}
	return os.WriteFile(path, []byte(b.String()), 0o644)
}

func section(b *strings.Builder, name, text string) {
	fmt.Fprintf(b, "\n%s\n%s\n\n%s\n", strings.Repeat("-", 78), name, strings.TrimSpace(text))
}

type module struct{ Path, Version, Dir string }

// linked lists the modules of the packages that the binary links.
func linked() ([]module, error) {
	out, err := exec.Command("go", "list", "-deps", "-json=Module", "./cmd/glenmist").Output()
	if err != nil {
		return nil, err
	}
	var all []module
	for d := json.NewDecoder(strings.NewReader(string(out))); ; {
		var p struct{ Module *module }
		err := d.Decode(&p)
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
		if p.Module != nil && p.Module.Version != "" && !slices.Contains(all, *p.Module) {
			all = append(all, *p.Module)
		}
	}
	slices.SortFunc(all, func(a, b module) int { return strings.Compare(a.Path, b.Path) })
	return all, nil
}

// licence joins the licence and notice files at the top of a folder.
func licence(dir string) (string, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return "", err
	}
	var texts []string
	for _, e := range entries {
		upper := strings.ToUpper(e.Name())
		if e.IsDir() || !strings.HasPrefix(upper, "LICEN") && !strings.HasPrefix(upper, "NOTICE") && !strings.HasPrefix(upper, "COPYING") {
			continue
		}
		text, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return "", err
		}
		texts = append(texts, string(text))
	}
	if len(texts) == 0 {
		return "", errors.New("no licence file")
	}
	return strings.Join(texts, "\n"), nil
}

func npm(b *strings.Builder, name string) error {
	dir := filepath.Join("web", "assets", "node_modules", filepath.FromSlash(name))
	text, err := os.ReadFile(filepath.Join(dir, "package.json"))
	if err != nil {
		return err
	}
	var about struct{ Version, License string }
	if err := json.Unmarshal(text, &about); err != nil {
		return err
	}
	full, err := licence(dir)
	if err != nil && about.License == "MIT" {
		full, err = "MIT License\n\nCopyright the authors of "+name+"\n\n"+mit, nil
	}
	if err != nil {
		return err
	}
	section(b, name+" "+about.Version+" ("+about.License+")", full)
	return nil
}
