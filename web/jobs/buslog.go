package jobs

import (
	"fmt"
	"math"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/obd"
	"glenmist/core/trouble"
	"glenmist/web/page"
)

// readBusLog reads a recorded bus into the values of the form of codes: the newest scan in it. A scan before a clearing is named.
func readBusLog(text string) (url.Values, error) {
	log, err := obd.ReadLog(strings.NewReader(text))
	if err != nil {
		return url.Values{}, err
	}
	if len(log.Scans) == 0 {
		return url.Values{}, invalid.Error{Expected: "requests of a tester and the answers of a control unit", Got: fmt.Sprintf("%d frames without one", log.Frames)}
	}
	newest := log.Scans[len(log.Scans)-1]
	v := valuesOfScan(newest)
	v["unread"] = log.Skipped
	if more := log.SkippedLines - len(log.Skipped); more > 0 {
		v["unread"] = append(v["unread"], fmt.Sprintf("%d more lines", more))
	}
	for i, s := range log.Scans[:len(log.Scans)-1] {
		if log.Cleared[i] {
			v.Add("before", codeWords(s.Codes))
		}
	}
	return v, nil
}

// valuesOfScan are the values of the form of codes for what a vehicle has told.
func valuesOfScan(s obd.Scan) url.Values {
	v := url.Values{"pasted": {"yes"}}
	for i, read := range s.Codes[:min(len(s.Codes), evidence.MaxCodes)] {
		v.Set(codeField(i+1), read.Code.String())
		v.Set(page.RowField("state", i+1), string(read.State))
		v.Set(page.RowField("text", i+1), read.Text)
	}
	if len(s.Codes) == 0 && slices.Contains(s.Asked, trouble.Stored) {
		v.Set("none", "yes")
	}
	frame := trouble.Frame{Trims: s.Trims()}
	if s.Frame != nil {
		frame = *s.Frame
		v.Set(frameField("code"), frame.Code.String())
	} else {
		for pid, at := range map[obd.PID]**float64{obd.RPM: &frame.RPM, obd.Load: &frame.Load, obd.Coolant: &frame.Coolant, obd.Speed: &frame.Speed} {
			if value, ok := s.Value(pid); ok {
				value = math.Round(value*10) / 10
				*at = &value
			}
		}
	}
	setFrame(v, frame)
	if s.Status != nil {
		v.Set("readiness", "yes")
		for _, m := range s.Status.Incomplete {
			v.Add("incomplete", string(m))
		}
	}
	v.Set("note", noteOfScan(s))
	return v
}

// setFrame sets the fields of a freeze frame, or of live values.
func setFrame(v url.Values, frame trouble.Frame) {
	number := func(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
	for _, value := range frameValues {
		if x := *value.at(&frame); x != nil {
			v.Set(frameField(value.path), number(*x))
		}
	}
	for _, t := range frame.Trims {
		v.Set(frameField(fmt.Sprintf("short-%d", t.Bank)), number(t.Short))
		v.Set(frameField(fmt.Sprintf("long-%d", t.Bank)), number(t.Long))
	}
}

// noteOfScan is what the form has no field for: counts of the misfire monitors, and what was not answered.
func noteOfScan(s obd.Scan) string {
	var lines []string
	var counts []string
	for _, m := range s.Misfires {
		if m.Cylinder > 0 && (m.Count > 0 || m.Average > 0) {
			counts = append(counts, fmt.Sprintf("cylinder %d: %d, average of ten cycles %d", m.Cylinder, max(0, m.Count), max(0, m.Average)))
		}
	}
	switch {
	case len(counts) > 0:
		lines = append(lines, "Misfire monitors, this or the last drive: "+strings.Join(counts, "; ")+".")
	case len(s.Misfires) > 0:
		lines = append(lines, "Misfire monitors: no misfire counted.")
	}
	for _, p := range s.Problems[:min(len(s.Problems), 8)] {
		who := "Nobody"
		if p.Unit != 0 {
			who = p.Unit.String()
		}
		lines = append(lines, fmt.Sprintf("%s, %s: %s.", who, p.Request.Service, p.Err))
	}
	return strings.Join(lines, "\n")
}

func codeWords(codes []trouble.Reading) string {
	if len(codes) == 0 {
		return "no codes"
	}
	var words []string
	for _, c := range codes {
		words = append(words, fmt.Sprintf("%s %s", c.Code, c.State))
	}
	return strings.Join(words, ", ")
}
