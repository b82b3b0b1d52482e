// Command mutants measures the tests. It changes one operator or statement at a time, in a
// copy that the compiler reads in place of the file. It runs the tests that should notice, and
// reports how many changes they caught. A seed selects the changes. No file of the tree is
// touched.
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// limit is how long the tests of one change may run: a change can loop for ever, which is noticed.
const limit = 5 * time.Minute

func main() {
	n := flag.Int("n", 20, "changes tried in each package")
	seed := flag.Uint64("seed", 1, "draws which")
	only := flag.String("only", "./core/... ./web/... ./store ./photo ./archive ./spool", "packages, as go list names them")
	flag.Parse()
	if err := run(os.Stdout, *n, *seed, strings.Fields(*only)); err != nil {
		fmt.Fprintln(os.Stderr, "mutants:", err)
		os.Exit(1)
	}
}

// pkg is a package with the packages that import it.
type pkg struct {
	ImportPath, Dir string
	GoFiles         []string
	TestGoFiles     []string
	XTestGoFiles    []string
	Imports         []string
}

func run(w io.Writer, n int, seed uint64, only []string) error {
	all, err := list("./...")
	if err != nil {
		return err
	}
	some, err := list(only...)
	if err != nil {
		return err
	}
	caught, tried := 0, 0
	for _, p := range some {
		if strings.HasSuffix(p.ImportPath, "test") { // helps tests, and has none
			continue
		}
		sites, err := sitesOf(p)
		if err != nil {
			return err
		}
		rng := rand.New(rand.NewPCG(seed, uint64(len(p.ImportPath)))) //nolint:gosec // a sample, nothing secret
		rng.Shuffle(len(sites), func(i, j int) { sites[i], sites[j] = sites[j], sites[i] })
		c, k := 0, 0
		for _, s := range sites[:min(n, len(sites))] {
			noticed, err := try(s, testedBy(p, all))
			if errors.Is(err, errNotGo) {
				continue
			}
			if err != nil {
				return err
			}
			k++
			if noticed {
				c++
			} else {
				fmt.Fprintf(w, "survived  %s: %s\n", s.at, s.what)
			}
		}
		if k > 0 {
			fmt.Fprintf(w, "%3d of %3d  %s\n", c, k, p.ImportPath)
		}
		caught, tried = caught+c, tried+k
	}
	fmt.Fprintf(w, "%d of %d changes were caught: %.0f %%\n", caught, tried, 100*float64(caught)/float64(max(1, tried)))
	return nil
}

func list(patterns ...string) (all []pkg, err error) {
	out, err := exec.CommandContext(context.Background(), "go", append([]string{"list", "-json=ImportPath,Dir,GoFiles,TestGoFiles,XTestGoFiles,Imports"}, patterns...)...).Output() //nolint:gosec // go list
	if err != nil {
		return nil, err
	}
	for d := json.NewDecoder(bytes.NewReader(out)); ; {
		var p pkg
		switch err := d.Decode(&p); {
		case errors.Is(err, io.EOF):
			return all, nil
		case err != nil:
			return nil, err
		}
		all = append(all, p)
	}
}

// testedBy lists the packages whose tests ought to notice a change in one: its own, and those of the
// same tree that import it.
func testedBy(p pkg, all []pkg) (names []string) {
	tree, _, _ := strings.Cut(strings.TrimPrefix(p.ImportPath, "glenmist/"), "/")
	names = []string{p.ImportPath}
	for _, q := range all {
		if slices.Contains(q.Imports, p.ImportPath) && strings.HasPrefix(q.ImportPath, "glenmist/"+tree) && len(q.TestGoFiles)+len(q.XTestGoFiles) > 0 {
			names = append(names, q.ImportPath)
		}
	}
	return names
}

// site is one change: the text of the file with it.
type site struct {
	file, at, what, text string
}

// swaps are the operators that are exchanged.
var swaps = map[token.Token]string{
	token.LSS: "<=", token.LEQ: "<", token.GTR: ">=", token.GEQ: ">", token.EQL: "!=", token.NEQ: "==", token.LAND: "||", token.LOR: "&&",
	token.ADD: "-", token.SUB: "+", token.MUL: "/", token.QUO: "*",
}

// sitesOf lists what can be changed in a package.
func sitesOf(p pkg) (all []site, err error) {
	for _, name := range p.GoFiles {
		file := filepath.Join(p.Dir, name)
		data, err := os.ReadFile(file) //nolint:gosec // a file of ours
		if err != nil {
			return nil, err
		}
		fset := token.NewFileSet()
		f, err := parser.ParseFile(fset, file, data, 0)
		if err != nil {
			return nil, err
		}
		add := func(from, to token.Pos, text, what string) {
			a, b := fset.Position(from), fset.Position(to)
			all = append(all, site{file, fmt.Sprintf("%s:%d", strings.TrimPrefix(file, filepath.Dir(filepath.Dir(p.Dir))+"/"), a.Line), what,
				string(data[:a.Offset]) + text + string(data[b.Offset:])})
		}
		ast.Inspect(f, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.GenDecl: // tables and constants are held by tests of their own
				return false
			case *ast.BinaryExpr:
				if to, ok := swaps[n.Op]; ok {
					add(n.OpPos, n.OpPos+token.Pos(len(n.Op.String())), to, n.Op.String()+" becomes "+to)
				}
			case *ast.IfStmt:
				from, to := fset.Position(n.Cond.Pos()).Offset, fset.Position(n.Cond.End()).Offset
				add(n.Cond.Pos(), n.Cond.End(), "false && ("+string(data[from:to])+")", "a condition that never holds")
			case *ast.IncDecStmt, *ast.ExprStmt:
				add(n.Pos(), n.End(), "", "a statement is left out")
			}
			return true
		})
	}
	return all, nil
}

// errNotGo says that a change does not compile.
var errNotGo = errors.New("does not compile")

// try runs the tests with one change, and says whether they noticed.
func try(s site, names []string) (noticed bool, err error) {
	dir, err := os.MkdirTemp("", "mutant-")
	if err != nil {
		return false, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	changed, overlay := filepath.Join(dir, "changed.go"), filepath.Join(dir, "overlay.json")
	body, err := json.Marshal(map[string]map[string]string{"Replace": {s.file: changed}})
	if err != nil {
		return false, err
	}
	if err := errors.Join(os.WriteFile(changed, []byte(s.text), 0o600), os.WriteFile(overlay, body, 0o600)); err != nil {
		return false, err
	}
	ctx, cancel := context.WithTimeout(context.Background(), limit)
	defer cancel()
	if out, err := exec.CommandContext(ctx, "go", append([]string{"build", "-overlay", overlay}, names...)...).CombinedOutput(); err != nil { //nolint:gosec // go build
		return false, fmt.Errorf("%w: %.200s", errNotGo, out)
	}
	for _, name := range names { // the package's own tests first: most changes end there
		test := exec.CommandContext(ctx, "go", "test", "-short", "-failfast", "-overlay", overlay, name) //nolint:gosec // go test
		if err := test.Run(); err != nil {
			return true, nil //nolint:nilerr // that the tests fail is what is asked
		}
	}
	return false, nil
}
