package plugs

import (
	"net/http"
	"net/url"
	"slices"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// boardPart is the board alone, which a script puts in place of the one that is shown.
type boardPart struct {
	At   string
	Key  string
	View *jobs.ViewPage
}

// TapPlugs answers a tap on the board: the form as it then stands, and nothing is recorded. A script
// asks for the board alone.
func (s *Pages) TapPlugs(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	part := r.URL.Query().Get("part") == "board"
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	typed := r.PostForm
	bad := page.BadText(typed)
	if len(bad) == 0 {
		if err := tapBoard(it, typed, typed.Get("tap")); err != nil {
			bad = append(bad, invalid.From(err)...)
		}
		_, wrong := readBoard(it, typed)
		bad = append(bad, wrong...)
	}
	code := http.StatusOK
	if len(bad) > 0 {
		code = http.StatusUnprocessableEntity
	}
	f := page.NewForm(typed, bad, page.SameName)
	if !part {
		s.ShowForm(w, r, code, it, BoardView, f)
		return
	}
	m := NewBoard(it, f)
	if err := addPhotos(s.Pages, r, it, &m); err != nil {
		s.FailStore(w, r, err)
		return
	}
	s.Render(w, r, code, "board.html", boardPart{"/jobs/" + url.PathEscape(it.Record.Job.Number), page.NewKey(), &jobs.ViewPage{Name: BoardView.Name, Form: f, Model: m}})
}

// tapBoard applies a tap to a form. A tap is a tag and a word: "P3 nose=tan", "P3 normal", "P3
// same", "P3 clear", "P3 at", "P3 ask=wet", "B3 boot-tracked". It can also be "rest normal" or
// "lay bay".
func tapBoard(it jobs.Loaded, typed url.Values, tap string) error {
	if tap == "" {
		return nil
	}
	who, what, _ := strings.Cut(tap, " ")
	plugs, on := plugTags(it)
	typed.Del("ask")
	switch who {
	case "rest":
		for _, t := range plugs {
			if had, _ := knownLook(it, t); had.Empty() && typed.Get(string(t)) == "" {
				typed.Set(string(t), plug.Sound.Text())
			}
		}
		return nil
	case "lay":
		typed.Set("lay", what)
		return nil
	}
	if i := slices.Index(on, part.Tag(who)); i >= 0 && who != "" {
		if typed.Get(who) == what {
			what = "" // a second tap takes it back
		}
		typed.Set(who, what)
		typed.Set("at", string(plugs[i]))
		return nil
	}
	at := slices.Index(plugs, part.Tag(who))
	if at < 0 {
		return invalid.Error{Field: "tap", Expected: tapExpected, Got: invalid.Quote(tap)}
	}
	typed.Set("at", who)
	return tapPlug(it, typed, plugs, at, what)
}

const tapExpected = "a plug of this engine and what is read on it"

// tapPlug applies a tap to plugs[at].
func tapPlug(it jobs.Loaded, typed url.Values, plugs []part.Tag, at int, what string) error {
	who := string(plugs[at])
	id, value, _ := strings.Cut(what, "=")
	switch {
	case what == "at":
		return nil
	case id == "ask":
		typed.Set("ask", value)
		return nil
	case what == "clear":
		typed.Del(who)
		typed.Del("gap-" + who)
		return nil
	}
	said, err := tappedLook(typed, plugs, at, what)
	if err != nil {
		return err
	}
	typed.Set(who, said.Text())
	typed.Set("last", who)
	had, _ := knownLook(it, plugs[at])
	if _, more := nextQuestion(it, plugs[at], had.Over(said), evidence.Ran(typed.Get("ran"))); !more || what == "normal" || what == "same" {
		toNextPlug(it, typed, plugs, at)
	}
	return nil
}

// tappedLook returns the look of plugs[at] after a tap: "normal", "same" as the plug before, or
// one more sign.
func tappedLook(typed url.Values, plugs []part.Tag, at int, what string) (said plug.Look, err error) {
	switch what {
	case "normal":
		return plug.Sound, nil
	case "same":
		last := part.Tag(typed.Get("last"))
		if !slices.Contains(plugs, last) || last == plugs[at] {
			return said, invalid.Error{Field: "tap", Expected: "a plug that was read before this one", Got: "none"}
		}
		said, err = plug.Parse(typed.Get(string(last)))
		said.GapMM = 0
		return said, err
	}
	if said, err = plug.Parse(typed.Get(string(plugs[at]))); err != nil {
		return said, err
	}
	id, value, answer := strings.Cut(what, "=")
	a, ok := plug.FindAspect(id)
	if !answer || !ok {
		return said, invalid.Error{Field: "tap", Expected: tapExpected, Got: invalid.Quote(string(plugs[at]) + " " + what)}
	}
	sign, err := a.ParseSign(value)
	return said.With(a, sign), err
}

// toNextPlug selects the next plug that was not read.
func toNextPlug(it jobs.Loaded, typed url.Values, plugs []part.Tag, at int) {
	for k := 1; k < len(plugs); k++ {
		next := plugs[(at+k)%len(plugs)]
		if known, _ := knownLook(it, next); typed.Get(string(next)) == "" && known.Empty() {
			typed.Set("at", string(next))
			return
		}
	}
}
