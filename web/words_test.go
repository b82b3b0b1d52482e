package web_test

import (
	"regexp"
	"slices"
	"strings"
	"testing"

	"golang.org/x/net/html"
)

// The words that the screens no longer use, as docs/glossary.md has it.
var banned = []string{"in vain", "not said", "what saves most", "tells it from", "one in twenty of", "likeliest of", "whatever it shows", "it is not bent", "stand side by side in the cap",
	"goes by what", "a file of a scope", "is no password", "hand-back", "astray", "odd one", "held against nothing"}

// longest is the greatest number of words of a sentence on a screen. Formulas are exempt, and lists,
// which have three commas or more.
const longest = 25

var blocks = strings.Fields("p li h1 h2 h3 td th dd dt summary label button figcaption legend caption option title div form section details ul ol header nav main dialog")

var sentenceEnd = regexp.MustCompile(`[.!?;:](\s+|$)`)

// sentences lists the sentences of a page, without scripts and drawings.
func sentences(n *html.Node, add func(string)) string {
	var text strings.Builder
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		switch {
		case c.Type == html.TextNode:
			text.WriteString(c.Data)
		case c.Type != html.ElementNode || slices.Contains([]string{"script", "style", "svg"}, c.Data):
		case slices.Contains(blocks, c.Data) || c.Data == "br":
			split(text.String(), add)
			text.Reset()
			split(sentences(c, add), add)
		default:
			text.WriteString(sentences(c, add))
		}
	}
	return text.String()
}

func split(text string, add func(string)) {
	for _, s := range sentenceEnd.Split(text, -1) {
		if s = strings.Join(strings.Fields(s), " "); s != "" {
			add(s)
		}
	}
}

// Every sentence on every screen has at most 25 words, and none uses a phrase that was replaced.
func TestSentencesArePlain(t *testing.T) {
	paths := []string{"/jobs", "/jobs/new", "/jobs/import", "/help", "/calc", "/beliefs", "/shop", "/vehicles", "/find", "/catalogue", "/catalogue?kind=coil", "/gallery"}
	for fleet, number := range numbers {
		at := "/jobs/" + number
		paths = append(paths, at, at+"/verdict", at+"/finding", at+"/worksheet", at+"/renewal")
		if slices.Contains([]string{"B-21", "F-08", "P-16"}, fleet) {
			paths = append(paths, at+"/paper")
			for _, step := range regexp.MustCompile(`worksheet\?step=([^"]+)"`).FindAllStringSubmatch(get(t, at+"/worksheet").body, -1) {
				paths = append(paths, at+"/worksheet?step="+step[1])
			}
		}
		if !slices.Contains([]string{"P-07", "T-03", "F-02", "M-01"}, fleet) {
			continue
		}
		for _, view := range []string{"intake", "scan", "trace", "fix", "prove", "find", "course", "codes", "counters", "watch", "move", "look", "check", "spark", "meter", "chain", "parts", "plugs", "beside", "what-if"} {
			paths = append(paths, at+"/"+view)
		}
	}
	said := map[string]bool{}
	for _, path := range paths {
		a := get(t, path)
		if a.StatusCode >= 500 {
			t.Errorf("%s answers %d", path, a.StatusCode)
		}
		doc, err := html.Parse(strings.NewReader(a.body))
		if err != nil {
			t.Fatal(err)
		}
		split(sentences(doc, func(s string) {
			if said[s] {
				return
			}
			said[s] = true
			if n := len(strings.Fields(s)); n > longest && strings.Count(s, ",") < 3 && !strings.Contains(s, " = ") {
				t.Errorf("%s: %d words: %s", path, n, s)
			}
			for _, phrase := range banned {
				if strings.Contains(strings.ToLower(s), phrase) {
					t.Errorf("%s: %q in: %s", path, phrase, s)
				}
			}
		}), func(string) {})
	}
}
