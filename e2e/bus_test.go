package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// What a tester and two control units exchanged: codes, a clearing, and the scan after the next drive.
const busLog = `(1700000000.000000) can0 7DF#0103000000000000
(1700000000.004100) can0 7E8#0443010304000000
(1700000002.000000) can0 7DF#0104000000000000
(1700000002.900000) can0 7E8#0144000000000000
(1700000900.000000) can0 7DF#0107000000000000
(1700000900.004100) can0 7E8#0447010302000000
(1700000900.100000) can0 7DF#0201010000000000
(1700000900.104000) can0 7E8#0641018107650100
`

// A recorded bus as a file, or pasted: its newest scan fills in the form, the one before the clearing is named, and one tap records it.
func TestBusLogIsImported(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		h.visit(h.demoJob("B-09") + "/codes")
		if h.keys {
			h.types("scan", strings.ReplaceAll(busLog, "\n", kb.Enter))
		} else {
			file := filepath.Join(t.TempDir(), "drive.log")
			if err := os.WriteFile(file, []byte(busLog), 0o600); err != nil {
				t.Fatal(err)
			}
			h.do(chromedp.SetUploadFiles(chromedp.ID("file"), []string{file}))
		}
		h.press("button", "Read it into the form", "")
		h.sees("This is what was found. Nothing is recorded yet.", "The log also holds a scan before a clearing: P0304 stored")
		h.press("button", "Record", "")
		h.sees("P0302 pending", "not ready: catalyst")
	})
}
