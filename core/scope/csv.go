package scope

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"glenmist/core/invalid"
)

// Limits of unreadable lines: a number, and for long files a share.
const (
	mostBad   = 20
	badShare  = 0.01
	keptBad   = 10
	headLines = 60
	longest   = 4096 // bytes of a line
)

// dialect is the notation of a table.
type dialect struct {
	sep     byte
	comma   bool // decimal comma
	columns int
	time    int       // column of the time, or of the number of the sample; -1 if there is none
	counted bool      // the column of the time holds the number of the sample
	unit    float64   // seconds per unit of time
	timed   bool      // the unit of the time is stated
	names   []string  // of the columns
	scale   []float64 // kilovolts per unit of each column
	guessed bool
}

// ReadCSV reads a table of samples: a time column and up to sixteen channels. Header lines are
// optional, units stand in their own row or after the names. It accepts comma, semicolon or
// tab; decimal point or comma; seconds to microseconds; volts or kilovolts; UTF-8, UTF-16 or
// Latin-1. Without a column of time, or with the numbers of the samples, [Options.Rate] states the rate. Stamps may be
// rounded, so that some are equal. Gaps in time are filled with the last sample. It streams, so
// memory grows with the samples and not with the text. Errors are [invalid.Error].
func ReadCSV(r io.Reader, opt Options) (*Trace, error) {
	in := bufio.NewReaderSize(r, 1<<20)
	if mark, _ := in.Peek(2); string(mark) == "\xff\xfe" || string(mark) == "\xfe\xff" {
		in = bufio.NewReaderSize(transform.NewReader(in, unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder()), 1<<20)
	}
	head, err := peekLines(in)
	if err != nil {
		return nil, err
	}
	d, first, err := detect(head)
	if err != nil {
		return nil, err
	}
	t := &Trace{Guessed: d.guessed}
	for c := range d.columns {
		if c != d.time {
			t.Channels = append(t.Channels, Channel{Name: d.names[c]})
		}
	}
	if len(t.Channels) > MaxChannels {
		return nil, invalid.Error{Expected: fmt.Sprintf("at most %d channels", MaxChannels), Got: fmt.Sprint(len(t.Channels))}
	}
	table := csvTable{Trace: t, dialect: d, opt: opt, row: make([]float64, d.columns)}
	if err := table.read(in, first); err != nil {
		return nil, err
	}
	if d.guessed {
		t.volts()
	}
	if err := table.rate(); err != nil {
		return nil, err
	}
	return t, t.check()
}

// rate works out the sample rate: from the stamps, or from the options if there are none.
func (t *csvTable) rate() error {
	switch {
	case t.dialect.time < 0 || t.dialect.counted:
		if t.opt.Rate == 0 {
			got := "no column of time"
			if t.dialect.counted {
				got = "the numbers of the samples and no time"
			}
			return invalid.Error{Field: "rate", Expected: "a column of time, or the samples a second in its field", Got: got}
		}
		t.Rate = t.opt.Rate
	case t.good > 1: // skipped lines also took time
		if t.last <= t.begin {
			return invalid.Error{Expected: "time that goes forward", Got: "the same time in every line"}
		}
		t.Rate = float64(t.good+t.Skipped-1) / (t.last - t.begin)
		if !t.dialect.timed {
			t.unstated()
		}
	}
	return nil
}

// usualMost is the most samples a second that are taken for granted where no unit says so.
const usualMost = 2_000_000.0

// unstated takes a time without a unit for milliseconds or microseconds, if it is too slow for seconds.
func (t *csvTable) unstated() {
	for _, per := range []float64{1e3, 1e6} {
		if t.Rate < MinRate && t.Rate*per >= MinRate && t.Rate*per <= usualMost {
			t.Rate *= per
			t.TimeGuessed = map[float64]string{1e3: "milliseconds", 1e6: "microseconds"}[per]
			return
		}
	}
}

// csvTable adds the lines of a table to a trace.
type csvTable struct {
	*Trace
	dialect dialect
	opt     Options
	row     []float64
	// good is the number of samples, begin and last are the first and the last time in seconds.
	good        int
	begin, last float64
	// step is the mean time from sample to sample so far, jump the largest, in seconds: rounded stamps stand still and jump.
	step, jump float64
}

// read reads the lines after the first ones, which are the header.
func (t *csvTable) read(in *bufio.Reader, first int) error {
	var read int64
	for line := 1; ; line++ {
		text, err := readLine(in)
		if len(text) == 0 && errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil && !errors.Is(err, io.EOF) {
			return err
		}
		if read += int64(len(text)); read > MaxBytes {
			return invalid.Error{Expected: "at most 200 MB", Got: "more"}
		}
		if t.opt.Progress != nil && line%65536 == 0 {
			if err := t.opt.Progress(read); err != nil {
				return err
			}
		}
		if line <= first || len(bytes.TrimSpace(text)) == 0 {
			continue
		}
		if t.dialect.parse(text, t.row) {
			err = t.sample(line, len(text))
		} else {
			err = t.skip(line, text)
		}
		if err != nil && !errors.Is(err, io.EOF) {
			return err
		}
	}
}

// skip notes a line without numbers. Too many of them are an error.
func (t *csvTable) skip(line int, text []byte) error {
	if t.Skipped++; len(t.Bad) < keptBad {
		t.Bad = append(t.Bad, BadLine{line, invalid.Quote(strings.ToValidUTF8(string(bytes.TrimSpace(text[:min(len(text), 80)])), "\uFFFD"))})
	}
	if t.Skipped > mostBad && float64(t.Skipped) > badShare*float64(t.good+t.Skipped) {
		return invalid.Error{Expected: fmt.Sprintf("lines of %d numbers", t.dialect.columns), Got: fmt.Sprintf("%d that are not, the first in line %d: %s", t.Skipped, t.Bad[0].Line, t.Bad[0].Got)}
	}
	return nil
}

// sample adds the row of a line, which has a length in bytes, to the channels.
func (t *csvTable) sample(line, length int) error {
	if t.good == 0 {
		t.room(t.opt, length)
	}
	if t.dialect.time >= 0 {
		now := t.row[t.dialect.time] * t.dialect.unit
		switch {
		case t.good == 0:
			t.begin = now
		case now < t.last:
			return invalid.Error{Expected: "time that goes forward", Got: fmt.Sprintf("line %d goes from %g to %g s", line, t.last, now)}
		default:
			if err := t.gap(now); err != nil {
				return err
			}
		}
		t.last = now
	}
	k := 0
	for c, v := range t.row {
		if c != t.dialect.time {
			t.Channels[k].Samples = append(t.Channels[k].Samples, ToHalf(float32(v*t.dialect.scale[c]*t.opt.factor())))
			k++
		}
	}
	if t.good++; t.good*len(t.Channels) > MaxSamples {
		return invalid.Error{Expected: fmt.Sprintf("at most %d samples", MaxSamples), Got: "more"}
	}
	return nil
}

// A gap in time is many usual steps long, and longer than the jumps of rounded stamps (C; judgement). Steps are judged after
// some samples.
const (
	gapSteps = 50
	gapJumps = 3
	judged   = 200
)

// gap fills a gap in time up to now with the last sample.
func (t *csvTable) gap(now float64) error {
	if t.good >= judged && now-t.last > max(gapSteps*t.step, gapJumps*t.jump) {
		n := int((now-t.last)/t.step) - 1
		if (t.good+n)*len(t.Channels) > MaxSamples {
			return invalid.Error{Expected: fmt.Sprintf("at most %d samples, the gaps in time included", MaxSamples), Got: "more"}
		}
		for c := range t.Channels {
			v := t.Channels[c].Samples
			t.Channels[c].Samples = append(v, slices.Repeat(v[len(v)-1:], n)...)
		}
		t.Gaps++
		t.good += n
		return nil
	}
	t.jump = max(t.jump, now-t.last)
	if t.good <= 4*judged { // later ones change the mean no more
		t.step = (now - t.begin) / float64(t.good)
	}
	return nil
}

// mostKV exceeds the demand of any plug. Larger values without a unit are volts.
const mostKV = 200

// volts converts channels that are in volts. What is more than a half can hold stays, so that it is refused.
func (t *Trace) volts() {
	for _, c := range t.Channels {
		if !slices.ContainsFunc(c.Samples, func(h Half) bool { return max(h.Float(), -h.Float()) > mostKV }) {
			continue
		}
		for i, h := range c.Samples {
			if v := h.Float(); max(v, -v) < mostHalf {
				c.Samples[i] = ToHalf(v / 1000)
			}
		}
	}
}

// readLine returns the next line, truncated to a maximum length.
func readLine(in *bufio.Reader) ([]byte, error) {
	text, err := in.ReadSlice('\n')
	for errors.Is(err, bufio.ErrBufferFull) {
		_, err = in.ReadSlice('\n')
	}
	return text[:min(len(text), longest)], err
}

// peekLines returns the first lines of a file without consuming them.
func peekLines(in *bufio.Reader) ([]string, error) {
	head, err := in.Peek(64 << 10)
	if len(head) == 0 {
		if err != nil && !errors.Is(err, io.EOF) {
			return nil, err
		}
		return nil, invalid.Error{Expected: "a table of samples", Got: "an empty file"}
	}
	if bytes.IndexByte(head, 0) >= 0 || !utf8.Valid(head[:max(0, len(head)-utf8.UTFMax)]) && bytes.Count(head, []byte{'\n'}) < 3 {
		return nil, invalid.Error{Expected: "a text table of samples, or a WAV file", Got: "a binary file"}
	}
	lines := strings.Split(strings.TrimPrefix(string(head), "\uFEFF"), "\n")
	if len(head) == 64<<10 {
		lines = lines[:len(lines)-1] // the last line may be incomplete
	}
	return lines[:min(len(lines), headLines)], nil
}

// detect returns the notation of a file and the number of lines before its first sample.
func detect(head []string) (d dialect, first int, err error) {
	d = separators(head)
	if d.columns < 1 {
		return d, 0, invalid.Error{Expected: "a column of time and at least one channel, parted by comma, semicolon or tab", Got: "none"}
	}
	first = slices.IndexFunc(head, func(l string) bool { return d.numbers(l) == d.columns })
	units := d.header(head[:first])
	d.findTime(units, head[first:])
	d.unit = 1
	if d.time >= 0 {
		if s, ok := seconds[units[d.time]]; ok {
			d.unit, d.timed = s, true
		}
	}
	d.scale = make([]float64, d.columns)
	for c, unit := range units {
		scale, known := kilovolts[unit]
		if !known {
			scale = 1
			d.guessed = d.guessed || c != d.time
		}
		d.scale[c] = scale
	}
	return d, first, nil
}

// findTime finds the column of the time by its name, its unit, or because it rises evenly, or else that of the numbers of the
// samples.
func (d *dialect) findTime(units, lines []string) {
	named := func(names ...string) int {
		return slices.IndexFunc(d.names, func(n string) bool {
			n = strings.ToLower(n)
			return slices.ContainsFunc(names, func(of string) bool { return n == of || len(of) > 2 && strings.HasPrefix(n, of) })
		})
	}
	if d.time = named("time", "t", "zeit", "temps", "x(s)"); d.time < 0 {
		d.time = slices.IndexFunc(units, func(u string) bool { _, is := seconds[u]; return is })
	}
	if d.time < 0 {
		if d.time = named("sample", "index", "number", "no", "n", "#"); d.time >= 0 {
			d.counted = true
		}
	}
	row, rises, whole := make([]float64, d.columns), true, true
	last, read := math.Inf(-1), 0
	column := max(0, d.time)
	for _, l := range lines {
		if !d.parse([]byte(l), row) {
			continue
		}
		if v := row[column]; read > 0 {
			rises, whole = rises && v >= last, whole && v == last+1
		}
		last = row[column]
		read++
	}
	switch {
	case d.time < 0 && rises && read > 2 && d.columns > 1:
		d.time, d.counted = 0, whole
	case d.time >= 0 && whole && rises && read > 2 && units[d.time] == "" && d.columns > 1:
		d.counted = true // whole numbers one by one are no seconds
	}
}

// kilovolts is the size of each unit of a channel.
var kilovolts = map[string]float64{"kv": 1, "v": 1e-3, "mv": 1e-6}

// separators returns the notation that reads most columns of numbers. The last complete lines
// of the head must be samples.
func separators(head []string) (best dialect) {
	for _, sep := range []byte{'\t', ';', ','} {
		for _, comma := range []bool{false, true} {
			if sep == ',' && comma {
				continue
			}
			try := dialect{sep: sep, comma: comma}
			for i := len(head) - 1; i >= 0 && try.columns == 0; i-- {
				if n := try.numbers(head[i]); n >= 1 {
					try.columns = n
				}
			}
			if try.columns > best.columns {
				best = try
			}
		}
	}
	return best
}

// header reads the names and units of the columns from the lines before the first sample.
func (d *dialect) header(lines []string) (units []string) {
	d.names, units = make([]string, d.columns), make([]string, d.columns)
	for c := range d.names {
		d.names[c] = fmt.Sprintf("channel %d", c)
	}
	for _, l := range lines {
		fields := strings.Split(strings.TrimRight(l, "\r"), string(d.sep))
		if len(fields) < d.columns || len(fields) > d.columns+1 {
			continue
		}
		for c := range d.columns {
			name, u := splitUnit(strings.Trim(strings.TrimSpace(fields[c]), `"`))
			if u != "" {
				units[c] = u
			}
			if name != "" {
				d.names[c] = name
			}
		}
	}
	return units
}

// seconds is the size of each unit of time. The micro sign has two code points in Unicode, and one byte in Latin-1.
var seconds = map[string]float64{"s": 1, "sec": 1, "secs": 1, "second": 1, "seconds": 1, "ms": 1e-3, "msec": 1e-3, "msecs": 1e-3, "millisecond": 1e-3, "milliseconds": 1e-3,
	"us": 1e-6, "usec": 1e-6, "µs": 1e-6, "μs": 1e-6, "\xb5s": 1e-6, "microsecond": 1e-6, "microseconds": 1e-6}

// splitUnit separates the unit from a column name: "Time (ms)", "Ch A [kV]", or the unit
// alone.
func splitUnit(s string) (name, unit string) {
	lower := lowerASCII(s)
	known := func(u string) bool { _, is := seconds[u]; return is || u == "v" || u == "kv" || u == "mv" }
	bare := strings.Trim(lower, "()[] ")
	if known(bare) {
		return "", bare
	}
	for _, pair := range []string{"()", "[]"} {
		open, shut := strings.LastIndexByte(s, pair[0]), strings.LastIndexByte(s, pair[1])
		if open > 0 && shut > open && known(strings.TrimSpace(lower[open+1:shut])) {
			return strings.TrimSpace(s[:open]), strings.TrimSpace(lower[open+1 : shut])
		}
	}
	if at := strings.LastIndexAny(s, " _/"); at > 0 && known(lower[at+1:]) {
		return strings.TrimSpace(s[:at]), lower[at+1:]
	}
	return s, ""
}

// lowerASCII is the text in lower case. It keeps bytes that are no UTF-8, such as the micro sign of Latin-1.
func lowerASCII(s string) string {
	b := []byte(s)
	for i, c := range b {
		if c >= 'A' && c <= 'Z' {
			b[i] = c + 'a' - 'A'
		}
	}
	return string(b)
}

// numbers returns the number of numeric fields of a line, or 0 if one field is not numeric.
func (d dialect) numbers(line string) int {
	n := 0
	for _, f := range strings.Split(strings.TrimRight(line, "\r\n"), string(d.sep)) {
		field := trimSpace([]byte(f))
		if len(field) == 0 {
			continue
		}
		if _, ok := d.number(field); !ok {
			return 0
		}
		n++
	}
	return n
}

// parse reads a line into row and reports whether it consists of numbers.
func (d dialect) parse(line []byte, row []float64) bool {
	c, start := 0, 0
	for i := 0; i <= len(line); i++ {
		if i < len(line) && line[i] != d.sep {
			continue
		}
		field := trimSpace(line[start:i])
		start = i + 1
		if len(field) == 0 && i == len(line) && c == d.columns {
			break // separator at the end of the line
		}
		if len(field) == 0 && c < d.columns && c != d.time { // blank: as before
			c++
			continue
		}
		v, ok := d.number(field)
		if !ok || c >= d.columns {
			return false
		}
		row[c] = v
		c++
	}
	return c == d.columns
}

func trimSpace(b []byte) []byte {
	for len(b) > 0 && (b[0] == ' ' || b[0] == '"') {
		b = b[1:]
	}
	for len(b) > 0 && (b[len(b)-1] == ' ' || b[len(b)-1] == '\r' || b[len(b)-1] == '\n' || b[len(b)-1] == '"') {
		b = b[:len(b)-1]
	}
	return b
}

// number reads one figure. Digits with a point or comma take a fast path. NaN and infinity are
// rejected.
func (d dialect) number(b []byte) (float64, bool) {
	point := byte('.')
	if d.comma {
		point = ','
	}
	var whole uint64
	digits, after, negative, seen := 0, -1, false, false
	for i, ch := range b {
		switch {
		case ch >= '0' && ch <= '9' && digits < 18:
			whole = whole*10 + uint64(ch-'0')
			digits++
			seen = true
			if after >= 0 {
				after++
			}
		case ch == point && after < 0:
			after = 0
		case i == 0 && (ch == '-' || ch == '+'):
			negative = ch == '-'
		default:
			return d.slowly(b)
		}
	}
	if !seen {
		return 0, false
	}
	v := float64(whole)
	if after > 0 {
		v /= pow10[after]
	}
	if negative {
		v = -v
	}
	return v, true
}

var pow10 = func() (p [20]float64) {
	for i := range p {
		p[i] = math.Pow(10, float64(i))
	}
	return p
}()

func (d dialect) slowly(b []byte) (float64, bool) {
	s := string(b)
	if d.comma {
		if strings.Contains(s, ".") {
			return 0, false
		}
		s = strings.Replace(s, ",", ".", 1)
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) || strings.ContainsAny(s, "xXpP_") {
		return 0, false
	}
	return v, true
}
