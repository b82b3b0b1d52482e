package scan

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/obd"
	"glenmist/core/trouble"
)

// maxProblems bounds the unanswered requests that the note of a log names.
const maxProblems = 8

// LooksLikeBus reports whether a text is a log of a CAN bus.
func LooksLikeBus(s string) bool { return obd.LooksLikeLog(s) }

// Bus reads a log of a CAN bus: the newest scan in it. Notices name the codes of scans before a clearing, and lines that are no
// frames. It fails if the log has no answer of a control unit.
func Bus(s string) (Result, error) {
	log, err := obd.ReadLog(strings.NewReader(s))
	if err != nil {
		return Result{}, err
	}
	if len(log.Scans) == 0 {
		return Result{}, invalid.Error{Expected: "requests of a tester and the answers of a control unit", Got: fmt.Sprintf("%d frames without one", log.Frames)}
	}
	last := len(log.Scans) - 1
	r := FromVehicle(log.Scans[last])
	for i, scan := range log.Scans[:last] {
		if log.Cleared[i] {
			r.Notices = append(r.Notices, fmt.Sprintf("The log also holds a scan before a clearing: %s. Record it first, if it is not in the ledger.", codeWords(scan.Codes)))
		}
	}
	switch n := log.SkippedLines; {
	case n == 1:
		r.Notices = append(r.Notices, fmt.Sprintf("One line of the log is no CAN frame: %s.", log.Skipped[0]))
	case n > 1:
		r.Notices = append(r.Notices, fmt.Sprintf("%d lines of the log are no CAN frames. The first is %s.", n, log.Skipped[0]))
	}
	if len(r.Read) > MaxCodes {
		return Result{}, invalid.Error{Expected: fmt.Sprintf("at most %d codes in one scan", MaxCodes), Got: fmt.Sprint(len(r.Read))}
	}
	return r, nil
}

// FromVehicle converts the answers of a vehicle. Without a freeze frame, the frame holds the live values.
func FromVehicle(s obd.Scan) Result {
	r := Result{Read: s.Codes, Frame: s.Frame, None: len(s.Codes) == 0 && slices.Contains(s.Asked, trouble.Stored)}
	slices.SortStableFunc(r.Read, func(a, b trouble.Reading) int { return a.Code.Rank() - b.Code.Rank() })
	if r.Frame == nil {
		if live := s.Live(); !live.Empty() {
			r.Frame = &live
		}
	}
	if s.Status != nil {
		r.Readiness = &s.Status.Readiness
	}
	r.Note = noteOf(s)
	return r
}

// noteOf is what no field holds: the counts of the misfire monitors, and the requests that were not answered.
func noteOf(s obd.Scan) string {
	var lines, counts []string
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
	for _, p := range s.Problems[:min(len(s.Problems), maxProblems)] {
		if p.Unit == 0 {
			lines = append(lines, fmt.Sprintf("%s: %s.", p.Request.Service, p.Err))
			continue
		}
		lines = append(lines, fmt.Sprintf("%s, %s: %s.", p.Unit, p.Request.Service, p.Err))
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
