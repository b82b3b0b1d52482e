package web_test

import (
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"

	"golang.org/x/net/html"
)

// fields are those of the form of a page that has most of them, as a browser would send it.
func fields(a answer) url.Values {
	doc, err := html.Parse(strings.NewReader(a.body))
	if err != nil {
		return nil
	}
	var best url.Values
	for n := range doc.Descendants() {
		if n.Type != html.ElementNode || n.Data != "form" {
			continue
		}
		if v := formValues(n); len(v) > len(best) {
			best = v
		}
	}
	return best
}

func formValues(form *html.Node) url.Values {
	v := url.Values{}
	for n := range form.Descendants() {
		name, named := attr(n, "name")
		if n.Type != html.ElementNode || !named {
			continue
		}
		value, _ := attr(n, "value")
		switch n.Data {
		case "input":
			kind, _ := attr(n, "type")
			_, checked := attr(n, "checked")
			switch kind {
			case "checkbox", "radio":
				if checked {
					v.Add(name, value)
				}
			case "file", "submit", "image":
			default:
				v.Add(name, value)
			}
		case "textarea":
			v.Add(name, text(n))
		case "select":
			v.Add(name, chosen(n))
		}
	}
	return v
}

// chosen is the value of a list: that of the option that is selected, else of the first.
func chosen(list *html.Node) (value string) {
	first := true
	for n := range list.Descendants() {
		if n.Type != html.ElementNode || n.Data != "option" {
			continue
		}
		own, has := attr(n, "value")
		if !has {
			own = text(n)
		}
		if _, selected := attr(n, "selected"); selected {
			return own
		}
		if first {
			value, first = own, false
		}
	}
	return value
}

func attr(n *html.Node, name string) (string, bool) {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val, true
		}
	}
	return "", false
}

func text(n *html.Node) string {
	var b strings.Builder
	for c := range n.Descendants() {
		if c.Type == html.TextNode {
			b.WriteString(c.Data)
		}
	}
	return b.String()
}

func TestFields(t *testing.T) {
	a := answer{body: `<form><input name="one" value="1"></form>
<form><input name="a" value="x &amp; y"><input type="checkbox" name="b" value="yes"><input type="radio" name="c" value="2" checked>
<select name="d"><option>first<option value="2nd" selected>second</select><textarea name="e">
long</textarea></form>`}
	if got := fields(a).Encode(); got != "a=x+%26+y&c=2&d=2nd&e=long" {
		t.Error(got)
	}
}

// readable is what a page says and what its elements are, read by an HTML parser: the text with single
// spaces, then each element with its attributes in their order. Anything else is as it came.
func (a answer) readable() string {
	if !strings.HasPrefix(a.Header.Get("Content-Type"), "text/html") {
		return a.body
	}
	doc, err := html.Parse(strings.NewReader(a.body))
	if err != nil {
		return a.body
	}
	var text, elements strings.Builder
	for n := range doc.Descendants() {
		switch n.Type {
		case html.TextNode:
			text.WriteString(n.Data)
		case html.ElementNode:
			if !flowing[n.Data] {
				text.WriteString(" ")
			}
			elements.WriteString("<" + n.Data)
			for _, at := range n.Attr {
				elements.WriteString(" " + at.Key + `="` + single(at.Val) + `"`)
			}
			elements.WriteString(">")
			if c := n.FirstChild; c != nil && c.Type == html.TextNode {
				elements.WriteString(single(c.Data) + "</" + n.Data + ">")
			}
			elements.WriteString("\n")
		}
	}
	return single(text.String()) + "\n" + elements.String()
}

// flowing are the elements that do not part words.
var flowing = map[string]bool{"a": true, "b": true, "code": true, "em": true, "kbd": true, "span": true, "strong": true, "time": true, "tspan": true}

var space = regexp.MustCompile(`[ \t\r\n]+`)

// single has one space where a text has any; narrow and fixed ones stay.
func single(text string) string { return strings.TrimSpace(space.ReplaceAllString(text, " ")) }

// elements are those of a page of a name and a class; "" is any class.
func elements(a answer, name, class string) (all []*html.Node) {
	doc, err := html.Parse(strings.NewReader(a.body))
	if err != nil {
		return nil
	}
	for n := range doc.Descendants() {
		if n.Type != html.ElementNode || n.Data != name {
			continue
		}
		if of, _ := attr(n, "class"); class == "" || slices.Contains(strings.Fields(of), class) {
			all = append(all, n)
		}
	}
	return all
}

// textOf is what an element says.
func textOf(n *html.Node) string {
	var text strings.Builder
	for c := range n.Descendants() {
		if c.Type == html.TextNode {
			text.WriteString(c.Data + " ")
		}
	}
	return single(text.String())
}
