package obd

import (
	"bytes"
	"errors"
	"slices"
	"testing"
	"time"
)

const ms = time.Millisecond

// heard is a frame at a time.
type heard struct {
	at    time.Duration
	frame string
}

// run gives the frames to an exchange until it is over, and returns what it sent.
func run(t *testing.T, x *Exchange, frames []heard) (sent []string) {
	t.Helper()
	for _, h := range frames {
		if x.Over(h.at) {
			t.Errorf("over before %s at %s", h.frame, h.at)
		}
		f, err := ParseFrame(h.frame)
		if err != nil {
			t.Fatal(err)
		}
		if send := x.Take(h.at, f); send != nil {
			sent = append(sent, send.String())
		}
	}
	return sent
}

// The cases of an exchange: one frame, several units, several frames, more time asked for, refusals, silence.
func TestExchange(t *testing.T) {
	for _, c := range []struct {
		name  string
		q     Request
		heard []heard
		sent  []string
		want  []Answer
		over  time.Duration
	}{
		{"one frame, padded", ask(LiveData, 0x0C), []heard{{9 * ms, "7E8#04410C1AF8555555"}}, nil,
			[]Answer{{0x7E8, []byte{0x0C, 0x1A, 0xF8}, nil}}, AnswerTime},
		{"nobody", ask(LiveData, 0), nil, nil, nil, AnswerTime},
		{"two units, another's frames between", ask(StoredCodes), []heard{{5 * ms, "7E9#024300"}, {6 * ms, "123#FFFFFFFFFFFFFFFF"}, {8 * ms, "7E8#0443010302"}}, nil,
			[]Answer{{0x7E8, []byte{1, 3, 2}, nil}, {0x7E9, []byte{0}, nil}}, AnswerTime},
		{"several frames", ask(StoredCodes), []heard{{5 * ms, "7E8#1008430303010302"}, {30 * ms, "7E8#210304000000"}}, []string{"7E0#3000000000000000"},
			[]Answer{{0x7E8, []byte{3, 3, 1, 3, 2, 3, 4}, nil}}, AnswerTime},
		{"29 bits", ask(StoredCodes), []heard{{5 * ms, "18DAF110#1008430303010302"}, {30 * ms, "18DAF110#210304"}}, []string{"18DA10F1#3000000000000000"},
			[]Answer{{0x18DAF110, []byte{3, 3, 1, 3, 2, 3, 4}, nil}}, AnswerTime},
		{"more time", ask(Clear), []heard{{40 * ms, "7E8#037F0478"}, {2000 * ms, "7E8#037F0478"}, {6500 * ms, "7E8#0144"}}, nil,
			[]Answer{{0x7E8, []byte{}, nil}}, AnswerTime},
		{"more time, and then nothing", ask(Clear), []heard{{40 * ms, "7E8#037F0478"}}, nil,
			[]Answer{{0x7E8, nil, ErrSilent}}, 40*ms + PendingTime},
		{"refused", ask(Clear), []heard{{40 * ms, "7E8#037F0422"}}, nil,
			[]Answer{{0x7E8, nil, Refusal{Clear, 0x22}}}, AnswerTime},
		{"a frame lost", ask(StoredCodes), []heard{{5 * ms, "7E8#1014430903010302"}, {30 * ms, "7E8#2203040000000000"}}, []string{"7E0#3000000000000000"},
			[]Answer{{0x7E8, nil, ErrSequence}}, AnswerTime},
		{"the rest does not come", ask(StoredCodes), []heard{{5 * ms, "7E8#1014430903010302"}, {30 * ms, "7E8#2103040000000000"}}, []string{"7E0#3000000000000000"},
			[]Answer{{0x7E8, nil, ErrSilent}}, 30*ms + FrameTime},
		{"an answer to something else", ask(StoredCodes), []heard{{5 * ms, "7E8#0341057B"}}, nil, nil, AnswerTime},
	} {
		t.Run(c.name, func(t *testing.T) {
			x := Begin(c.q, 0)
			if sent := run(t, x, c.heard); !slices.Equal(sent, c.sent) {
				t.Errorf("sent %v, want %v", sent, c.sent)
			}
			if x.Until() != c.over || x.Over(c.over-1) || !x.Over(c.over) {
				t.Errorf("over at %s, want %s", x.Until(), c.over)
			}
			got := x.Answers()
			if len(got) != len(c.want) {
				t.Fatalf("%+v", got)
			}
			for i, a := range got {
				if w := c.want[i]; a.Unit != w.Unit || !bytes.Equal(a.Data, w.Data) || !errors.Is(a.Err, w.Err) {
					t.Errorf("%+v, want %+v", a, w)
				}
			}
		})
	}
}

// A request to all units is one frame to 7DF, with 29 bits to 18DB33F1 (ISO 15765-4, M).
func TestRequestFrames(t *testing.T) {
	q := ask(LiveData, 0x0C, 0x0D)
	if f := q.Frame(false).String(); f != "7DF#03010C0D00000000" {
		t.Error(f)
	}
	if f := q.Frame(true).String(); f != "18DB33F1#03010C0D00000000" {
		t.Error(f)
	}
}

func FuzzParseFrame(f *testing.F) {
	f.Add("7E8#064100BE1FA813")
	f.Add("18DAF110#")
	f.Fuzz(func(t *testing.T, s string) {
		one, err := ParseFrame(s)
		if err != nil {
			return
		}
		again, err := ParseFrame(one.String())
		if err != nil || again != one {
			t.Errorf("%q: %v becomes %v, %v", s, one, again, err)
		}
	})
}
