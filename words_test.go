package glenmist

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
)

// replacedPhrases are those that docs/glossary.md and CONTRIBUTING.md have replaced.
var replacedPhrases = []string{"in vain", "not said", "what saves most", "whatever it shows", "is no password", "hand-back", "astray", "held against nothing", "goes by what"}

// mostWords is the greatest number of words of one sentence that a person reads. Lists, which have
// three commas or more, and formulas are exempt, as on the pages.
const mostWords = 25

var sentenceEnds = regexp.MustCompile(`[.!?;:](\s+|$)`)

// Every message in the code (errors, cautions, the command line, rare pages) has short sentences in
// plain words. The pages themselves are crawled by a test of web.
func TestMessagesInCodeArePlain(t *testing.T) {
	read := 0
	for _, room := range []string{"core", "web", "cmd", "store", "archive", "photo", "spool"} {
		err := filepath.WalkDir(room, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				if err == nil && d.IsDir() && d.Name() == "node_modules" {
					return fs.SkipDir
				}
				return err
			}
			files := token.NewFileSet()
			file, err := parser.ParseFile(files, path, nil, parser.SkipObjectResolution)
			if err != nil {
				return err
			}
			ast.Inspect(file, func(n ast.Node) bool {
				if _, imports := n.(*ast.ImportSpec); imports {
					return false
				}
				if field, ok := n.(*ast.Field); ok && field.Tag != nil {
					return false
				}
				lit, ok := n.(*ast.BasicLit)
				if !ok || lit.Kind != token.STRING || strings.HasPrefix(lit.Value, "`") {
					return true
				}
				text, err := strconv.Unquote(lit.Value)
				if err != nil {
					return true
				}
				read++
				for _, s := range sentenceEnds.Split(text, -1) {
					if n := len(strings.Fields(s)); n > mostWords && strings.Count(s, ",") < 3 && !strings.Contains(s, " = ") {
						t.Errorf("%s: %d words: %s", files.Position(lit.Pos()), n, s)
					}
				}
				for _, phrase := range replacedPhrases {
					if strings.Contains(strings.ToLower(text), phrase) {
						t.Errorf("%s: %q in: %s", files.Position(lit.Pos()), phrase, text)
					}
				}
				return true
			})
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	if read < 4000 {
		t.Errorf("only %d texts were read", read)
	}
}
