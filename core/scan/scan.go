// Package scan reads the output of a scan tool, as pasted text, CSV or a log of the bus. It finds trouble codes
// with states, the freeze frame and the fuel trims. Other lines are kept as a note. Input that
// looks like a code and is not understood is listed.
package scan

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"glenmist/core/invalid"
	"glenmist/core/trouble"
)

// Bounds of one scan.
const (
	MaxBytes = 64 << 10
	MaxLines = 2000
	MaxCodes = 64
	maxText  = 120 // kept beside a code
	maxNote  = 1800
)

// Result is the content of a scan.
type Result struct {
	Read []trouble.Reading
	// Frame is the freeze frame, or nil; Trims are trims outside it.
	Frame *trouble.Frame
	Trims []trouble.Trim
	// None is true if a unit was asked for stored codes and has none. Readiness is that of its monitors, or nil.
	None      bool
	Readiness *trouble.Readiness
	// Notices are sentences about the scan as a whole, such as on an earlier scan in the same log.
	Notices []string
	// Note holds the other lines, as far as a note has room.
	Note string
	// Unread lists what looks like a code or a figure and cannot be used.
	Unread []string
}

// state words; the first one in a line counts. They are the services of SAE J1979 (from
// memory): $03 stored, $07 pending, $0A permanent.
var stateWords = []struct {
	word  string
	state trouble.State
}{
	{"permanent", trouble.Permanent}, {"pending", trouble.Pending}, {"not confirmed", trouble.Pending},
	{"stored", trouble.Stored}, {"confirmed", trouble.Stored}, {"current", trouble.Stored}, {"active", trouble.Stored}, {"history", trouble.Stored},
	{"$0a", trouble.Permanent}, {"$07", trouble.Pending}, {"$03", trouble.Stored},
}

func stateIn(line string) (trouble.State, bool) {
	low := strings.ToLower(line)
	for _, row := range stateWords {
		if i := strings.Index(low, row.word); i >= 0 && wholeWord(low, i, len(row.word)) {
			return row.state, true
		}
	}
	return "", false
}

func wholeWord(s string, i, n int) bool {
	letter := func(b byte) bool { return b >= 'a' && b <= 'z' }
	return (i == 0 || !letter(s[i-1])) && (i+n >= len(s) || !letter(s[i+n]))
}

// codeLike matches codes and near misses: a letter, then four or five letters and digits with
// at least two digits.
var codeLike = regexp.MustCompile(`(?i)\b[A-Z][0-9OIL][0-9A-Z]{2,4}\b`)

// lines splits a scan and checks its bounds.
func lines(s string) ([]string, error) {
	if len(s) > MaxBytes {
		return nil, invalid.Error{Expected: fmt.Sprintf("a scan of at most %d kB", MaxBytes>>10), Got: fmt.Sprintf("%d kB", len(s)>>10)}
	}
	if !invalid.Clean(s) {
		return nil, invalid.Error{Expected: "text in UTF-8 without control characters", Got: invalid.Quote(strings.Map(printable, s))}
	}
	all := strings.Split(strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(s), "\n")
	if len(all) > MaxLines {
		return nil, invalid.Error{Expected: fmt.Sprintf("a scan of at most %d lines", MaxLines), Got: fmt.Sprint(len(all))}
	}
	return all, nil
}

func printable(r rune) rune {
	if unicode.IsControl(r) {
		return '\uFFFD'
	}
	return r
}

// Text reads a whole scan as text. It fails only if the text is too long or not text. The
// result lists what was not understood.
func Text(s string) (Result, error) {
	all, err := lines(s)
	if err != nil {
		return Result{}, err
	}
	r := reader{state: trouble.Stored}
	for _, line := range all {
		r.line(strings.TrimSpace(line))
	}
	return r.result()
}

// reader reads a scan line by line.
type reader struct {
	Result
	frame   trouble.Frame
	inFrame bool
	trims   map[int]*trouble.Trim
	state   trouble.State // from the last heading
	note    []string
}

func (r *reader) line(line string) {
	if line == "" {
		return
	}
	found, rest := r.codes(line)
	switch {
	case found:
		if rest != "" {
			r.Unread = append(r.Unread, rest)
		}
	case rest != "":
		r.Unread = append(r.Unread, rest)
		r.note = append(r.note, line)
	case r.value(line):
	default:
		if state, ok := stateIn(line); ok {
			r.state = state
			r.inFrame = false
		}
		if strings.Contains(strings.ToLower(line), "freeze") {
			r.inFrame = true
		}
		r.note = append(r.note, line)
	}
}

// codes reads the codes of a line; rest is a word that is nearly a code.
func (r *reader) codes(line string) (found bool, rest string) {
	spans := codeLike.FindAllStringIndex(line, -1)
	state, stated := stateIn(line)
	if !stated {
		state = r.state
	}
	var misprints []string
	var codes []trouble.Code
	var at [][]int
	for _, span := range spans {
		word := line[span[0]:span[1]]
		code, err := trouble.Parse(word)
		switch {
		case err == nil:
			codes, at = append(codes, code), append(at, span)
		case nearly(word):
			misprints = append(misprints, word)
		}
	}
	for i, code := range codes {
		if strings.Contains(strings.ToLower(line), "freeze") {
			r.inFrame = true
			r.frame.Code = &code
			continue
		}
		end := len(line)
		if i+1 < len(at) {
			end = at[i+1][0]
		}
		r.add(trouble.Reading{Code: code, State: state, Text: clean(line[at[i][1]:end])})
	}
	return len(codes) > 0, strings.Join(misprints, " ")
}

// nearly reports whether a word looks like a misprinted code.
func nearly(word string) bool {
	return len(word) == 5 && strings.ContainsAny(word[:1], "PCBUpcbu") && digits(word) >= 2
}

func digits(s string) int {
	n := 0
	for _, c := range s {
		if c >= '0' && c <= '9' {
			n++
		}
	}
	return n
}

func (r *reader) add(read trouble.Reading) {
	i := slices.IndexFunc(r.Read, func(have trouble.Reading) bool { return have.Code == read.Code && have.State == read.State })
	switch {
	case i >= 0 && r.Read[i].Text == "":
		r.Read[i].Text = read.Text
	case i < 0:
		r.Read = append(r.Read, read)
	}
}

// clean returns the text beside a code, without state and punctuation.
func clean(s string) string {
	s = strings.Trim(strings.Join(strings.Fields(s), " "), " -–:;,.|()[]\"")
	for _, row := range stateWords {
		if strings.EqualFold(s, row.word) {
			return ""
		}
		if cut, ok := cutSuffixFold(s, row.word); ok && strings.TrimRight(cut, " -–:;,.|([") != cut {
			s = strings.Trim(cut, " -–:;,.|()[]")
		}
		if len(s) > len(row.word) && strings.EqualFold(s[:len(row.word)], row.word) && strings.ContainsRune(" -–:;,.|)]", rune(s[len(row.word)])) {
			s = strings.Trim(s[len(row.word):], " -–:;,.|()[]")
		}
	}
	if r := []rune(s); len(r) > maxText {
		s = string(r[:maxText])
	}
	for len(s) > maxText { // in bytes
		r := []rune(s)
		s = string(r[:len(r)-1])
	}
	return s
}

func cutSuffixFold(s, suffix string) (string, bool) {
	if len(s) < len(suffix) || !strings.EqualFold(s[len(s)-len(suffix):], suffix) {
		return s, false
	}
	return s[:len(s)-len(suffix)], true
}

// figure is a name, a number and perhaps a unit.
var figure = regexp.MustCompile(`^([\p{L}$][\p{L}0-9 ().,/_%$#-]*?)\s*[:=\t,;|]?\s+([+-−]?[0-9]+(?:[.,][0-9]+)?)\s*([°%\p{L}/]*)\.?$`)

// The figures that are recognised, by words of their names in lower case.
var figures = []struct {
	words []string
	take  func(*trouble.Frame) **float64
	units map[string]func(float64) float64
}{
	{[]string{"rpm", "engine speed", "revolutions"}, func(f *trouble.Frame) **float64 { return &f.RPM }, map[string]func(float64) float64{"": same, "rpm": same, "/min": same, "1/min": same}},
	{[]string{"coolant", "ect"}, func(f *trouble.Frame) **float64 { return &f.Coolant }, map[string]func(float64) float64{"": same, "°c": same, "c": same, "degc": same, "°f": fromF, "f": fromF, "degf": fromF}},
	{[]string{"load"}, func(f *trouble.Frame) **float64 { return &f.Load }, map[string]func(float64) float64{"": same, "%": same}},
	{[]string{"vehicle speed", "road speed", "vss", "speed"}, func(f *trouble.Frame) **float64 { return &f.Speed }, map[string]func(float64) float64{"": same, "km/h": same, "kmh": same, "kph": same, "mph": fromMiles}},
}

func same(v float64) float64      { return v }
func fromF(v float64) float64     { return (v - 32) / 1.8 }
func fromMiles(v float64) float64 { return v * 1.609344 }

var (
	trimName = regexp.MustCompile(`(?i)(short|long|stft|ltft|shrt|s\.?t\.? ?f\.?t|l\.?t\.? ?f\.?t)`)
	trimBank = regexp.MustCompile(`(?i)(?:bank|b)? ?([12])\b`)
)

// value reads a line with a figure of a freeze frame or a fuel trim, and reports success.
func (r *reader) value(line string) bool {
	m := figure.FindStringSubmatch(line)
	if m == nil {
		return false
	}
	name, unit := strings.ToLower(m[1]), strings.ToLower(m[3])
	v, err := strconv.ParseFloat(strings.NewReplacer(",", ".", "−", "-", "+", "").Replace(m[2]), 64)
	if err != nil {
		return false
	}
	if trimName.MatchString(name) && (strings.Contains(name, "trim") || strings.Contains(name, "ft")) {
		return r.trim(line, name, v)
	}
	for _, row := range figures {
		if !slices.ContainsFunc(row.words, func(w string) bool { return strings.Contains(name, w) }) {
			continue
		}
		convert, ok := row.units[unit]
		if !ok {
			r.Unread = append(r.Unread, line)
			return false
		}
		at := row.take(&r.frame)
		was := *at
		got := convert(v)
		*at = &got
		if r.frame.Check(2) != nil {
			*at = was
			r.Unread = append(r.Unread, line)
			return false
		}
		return true
	}
	return false
}

func (r *reader) trim(line, name string, v float64) bool {
	bank := 1
	if m := trimBank.FindStringSubmatch(name); m != nil {
		bank = int(m[1][0] - '0')
	}
	t := trouble.Trim{Bank: bank}
	if r.trims == nil {
		r.trims = map[int]*trouble.Trim{}
	}
	if have := r.trims[bank]; have != nil {
		t = *have
	}
	if strings.Contains(name, "short") || strings.HasPrefix(strings.TrimSpace(name), "s") {
		t.Short = v
	} else {
		t.Long = v
	}
	if trouble.CheckTrims([]trouble.Trim{t}, 2) != nil {
		r.Unread = append(r.Unread, line)
		return false
	}
	r.trims[bank] = &t
	return true
}

func (r *reader) result() (Result, error) {
	if len(r.Read) > MaxCodes {
		return Result{}, invalid.Error{Expected: fmt.Sprintf("at most %d codes in one scan", MaxCodes), Got: fmt.Sprint(len(r.Read))}
	}
	var trims []trouble.Trim
	for bank := 1; bank <= 2; bank++ {
		if t := r.trims[bank]; t != nil {
			trims = append(trims, *t)
		}
	}
	if r.inFrame || !r.frame.Empty() {
		r.frame.Trims = trims
		if !r.frame.Empty() {
			frame := r.frame
			r.Frame = &frame
		}
	} else {
		r.Trims = trims
	}
	slices.SortStableFunc(r.Read, func(a, b trouble.Reading) int { return a.Code.Rank() - b.Code.Rank() })
	r.Note = strings.Join(r.note, "\n")
	if len(r.Note) > maxNote {
		r.Note = strings.ToValidUTF8(r.Note[:maxNote], "") + " …"
		r.Unread = append(r.Unread, "the note was cut short")
	}
	return r.Result, nil
}
