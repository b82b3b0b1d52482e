package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

const secret = "heather gate copper thaw"

// chooses ticks a box or a radio button.
func (h hand) chooses(id string) {
	h.t.Helper()
	if h.keys {
		h.reach(fmt.Sprintf(`e.id === %q || e.type === "radio" && e.name === document.getElementById(%q)?.name`, id, id))
		for n := 0; !h.holds(fmt.Sprintf(`document.activeElement.id === %q`, id)); n++ {
			if n > 20 {
				h.t.Fatalf("arrows do not reach %s", id)
			}
			h.do(key(kb.ArrowDown))
		}
		if !h.holds(fmt.Sprintf(`document.getElementById(%q).checked`, id)) {
			h.do(key(" "))
		}
		return
	}
	h.do(chromedp.Click(chromedp.CSS("#" + id)))
}

// picks chooses a value of a list.
func (h hand) picks(id, value string) {
	h.t.Helper()
	if h.keys {
		h.reach(fmt.Sprintf(`e.id === %q`, id))
	}
	h.do(chromedp.SetValue(chromedp.CSS("#"+id), value))
}

// personID finds the number of a person on the page of people.
func (h hand) personID(name string) string {
	h.t.Helper()
	id, err := chromedp.Run(h.ctx, chromedp.Evaluate[string](fmt.Sprintf(
		`[...document.querySelectorAll("summary")].find((e) => e.textContent.includes(%q)).parentElement.querySelector("form").action.split("/").pop()`, name)))
	if err != nil {
		h.t.Fatal(err)
	}
	return id
}

// Sign out, and in again as an apprentice, who may not see who works here.
func TestSignOutAndIn(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		h.press("link", "Oda Quillrigg", "I")
		h.sees("Signed in as administrator", "Who may do what")
		h.accessible()
		h.press("button", "Sign out", "")
		h.sees("This is a demo: choose who you are")
		h.accessible()
		h.visit("/people") // leads to the sign-in, and on from there
		h.press("button", "Wyn Fellgarth apprentice", "")
		h.sees("you are signed in as apprentice", "The least role that has it is administrator")
		h.press("link", "All jobs", "")
		h.hides("Import")
	})
}

// A person is added and gets another role; the audit log says so; the person's data is deleted.
func TestPeopleAndAudit(t *testing.T) {
	byBothHands(t, "/people", func(h hand) {
		h.types("name", "Nim Scarholt")
		h.types("password", "password1234")
		h.press("button", "Add", "")
		h.sees("one that is hard to guess")
		h.types("password", secret)
		h.press("button", "Add", "")
		h.sees("Nim Scarholt", "Tell the person the password")
		h.accessible()
		h.unfolds("Change Nim Scarholt")
		h.picks("role-"+h.personID("Nim Scarholt"), "lead")
		h.press("button", "Set the role", "")
		h.sees("The role is changed")
		h.press("link", "Audit log", "a")
		h.sees("Nim Scarholt", "was technician, is lead", "person added")
		h.accessible()
		h.visit("/people")
		id := h.personID("Nim Scarholt")
		h.visit("/erase/person/" + id)
		h.sees("This stays")
		h.chooses("sure")
		h.accessible()
		h.press("button", "Delete the person’s data for good", "")
		h.sees("person "+id, "replaced wherever it stood")
		h.hides("Nim Scarholt")
	})
}

// A tablet that several people use: a PIN switches the person and keeps what was typed; it locks, and goes on.
func TestSharedTablet(t *testing.T) {
	byBothHands(t, "/people", func(h hand) {
		id := h.personID("Bram Tarnside")
		h.unfolds("Change Bram Tarnside")
		h.types("password-"+id, secret)
		h.press("button", "Set the password", "")
		h.sees("The password is set")
		job := newJob(h.t, h.tab, "SH-1")
		h.visit("/account")
		h.press("button", "Sign out", "")
		h.types("name", "bram tarnside")
		h.types("password", secret)
		h.unfolds("Several people use this device")
		h.chooses("shared")
		h.types("device", "Tablet bay 2")
		h.accessible()
		h.press("button", "Sign in", "")
		h.visit("/account")
		h.types("old", secret)
		h.types("pin", "4719")
		h.press("button", "Set the PIN", "")
		h.sees("The PIN is set")
		h.visit(job + "/watch")
		h.types("note", "half typed")
		h.do(chromedp.Evaluate[chromedp.Void](`void (document.querySelector("[x-data=lock]").dataset.after = 0)`))
		h.until(`document.querySelector("dialog.lock").open`) // it locks
		for _, width := range []int64{390, 768, 1280} {
			h.do(chromedp.EmulateViewport(width, 844))
			if !h.holds(`document.querySelector("dialog.lock form").getBoundingClientRect().height > 100`) {
				h.t.Errorf("%d wide: nothing asks for the PIN", width)
			}
		}
		h.accessible()
		h.do(key(kb.Escape))
		if !h.holds(`document.querySelector("dialog.lock").open`) {
			h.t.Error("Escape uncovers a locked page")
		}
		pin := func(typed string) {
			h.chooses("person-" + id)
			h.do(chromedp.Focus(chromedp.CSS("dialog #pin")), key(typed+kb.Enter))
		}
		pin("1111")
		h.until(`document.querySelector("dialog.lock [role=alert]").textContent.includes("not this person")`)
		h.do(chromedp.Evaluate[chromedp.Void](`void (document.querySelector("[x-data=lock]").dataset.after = 300)`))
		pin("4719")
		h.until(`!document.querySelector("dialog.lock").open && document.querySelector("#note").value === "half typed"`)
		if !strings.HasSuffix(h.path(), "/watch") {
			h.t.Errorf("at %s", h.path())
		}
		h.do(chromedp.Click(chromedp.CSS("#w2")))
		h.send("Record")
		h.sees("Cylinder 2 in trouble", "Bram Tarnside")
	})
}

// An apprentice signs, a lead countersigns.
func TestApprenticeIsCountersigned(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		h.visit("/jobs?state=both")
		job := h.demoJob("C-08")
		wyn := hand{openAs(h.t, "Wyn Fellgarth", job+"/verdict"), h.keys}
		wyn.send("Sign the verdict")
		wyn.sees("is the verdict of Wyn Fellgarth, an apprentice")
		h.visit(job)
		h.press("link", "Read and countersign it", "")
		h.sees("signed by Wyn Fellgarth", "Your signature makes the verdict stand")
		h.accessible()
		h.send("Countersign the verdict")
		h.sees("Open the worksheet")
		h.visit(job + "/finding")
		h.sees("countersigned by Oda Quillrigg")
	})
}

// A job is deleted with a reason, and its address says so.
func TestJobIsDeleted(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		job := newJob(h.t, h.tab, "DL-1")
		h.visit(job + "/intake")
		h.press("link", "Delete the job", "")
		h.types("reason", "entered twice")
		h.chooses("sure")
		h.accessible()
		h.press("button", "Delete the job for good", "")
		h.sees("is deleted")
		h.visit(job)
		h.sees("was deleted on", "by Oda Quillrigg: entered twice")
	})
}

// A search is kept under a name and found again.
func TestSearchIsKept(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		newJob(h.t, h.tab, "SK-1")
		h.visit("/jobs?q=SK-1")
		h.types("keep-name", "The first")
		h.press("button", "Keep", "")
		h.visit("/jobs")
		h.press("link", "The first", "")
		h.until(`location.search === "?q=SK-1"`)
		h.press("button", map[bool]string{false: "Remove the search The first", true: "×"}[h.keys], "")
		h.hides("The first")
		h.press("link", "Mine", "m")
		h.until(`location.search === "?mine=yes"`)
	})
}

// From the list of vehicles to one's history, its engine, and back to a job of it.
func TestVehicleHistoryLeadsOn(t *testing.T) {
	byBothHands(t, "/jobs", func(h hand) {
		h.press("link", "Vehicles", "v")
		h.press("link", "B-21", "")
		h.sees("Visits", "Parts and their ages")
		h.accessible()
		h.press("link", "Engine", "i")
		h.sees("Engine of B-21")
		h.visit("/vehicles/B-21")
		h.press("link", "Open a job", "a")
		h.until(`document.querySelector("#fleet").value === "B-21"`)
	})
}
