// Package embedding computes how a page of another site shows what is here: which sites may, what stands in such a
// page, and what is answered to whoever asks for that.
package embedding

import (
	"fmt"
	"html"
	"net/netip"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"latelantern/internal/core/fault"
)

// MostSites is how many sites may show pages at most.
const MostSites = 50

// host is a name of the DNS, all names below one, or an address.
var host = regexp.MustCompile(`^(\*\.)?([a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?\.)*[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$`)

// Site is a site in the one form in which it is kept: a scheme, a host, and a port where it is not that of the scheme
// (a host source of Content Security Policy Level 3, 2.3.1, without a path). An address of a page is taken for that of
// its site. It is https, but for a host on the machine itself. ok is false for what is no site.
func Site(text string) (site string, ok bool) {
	text = strings.ToLower(strings.TrimSpace(text))
	if !strings.Contains(text, "://") {
		text = "https://" + text
	}
	at, err := url.Parse(text)
	if err != nil || at.User != nil || len(at.Hostname()) > 253 || !host.MatchString(at.Hostname()) {
		return "", false
	}
	here := at.Hostname() == "localhost"
	if ip, err := netip.ParseAddr(at.Hostname()); err == nil {
		here = ip.IsLoopback()
	} else if !here && (strings.Count(at.Hostname(), ".") == 0 || strings.HasPrefix(at.Hostname(), "*.") &&
		strings.Count(at.Hostname(), ".") < 2) {
		return "", false // all of a top-level domain is no site
	}
	usual := map[string]string{"https": "443", "http": "80"}[at.Scheme]
	if usual == "" || at.Scheme == "http" && !here {
		return "", false
	}
	out := at.Scheme + "://" + at.Hostname()
	if port := at.Port(); port != "" && port != usual {
		if n, err := strconv.Atoi(port); err != nil || n < 1 || n > 65535 {
			return "", false
		}
		out += ":" + port
	}
	return out, true
}

// Sites are sites in the form of Site, in order, each once. Its error is of type fault.Faults, for each that is
// none, and when they are too many.
func Sites(list []string) ([]string, error) {
	var faults fault.Faults
	out := []string{}
	for _, text := range list {
		if strings.TrimSpace(text) == "" {
			continue
		}
		site, ok := Site(text)
		faults.When(!ok, "sites", "embedding.site", "site", text)
		out = append(out, site)
	}
	slices.Sort(out)
	out = slices.Compact(out)
	faults.When(len(out) > MostSites, "sites", "embedding.many", "most", MostSites)
	return out, faults.Err()
}

// Ancestors is the directive by which a page says which sites may show it (CSP Level 3, 6.4.2).
func Ancestors(sites []string) string {
	return strings.Join(append([]string{"frame-ancestors", "'self'"}, sites...), " ")
}

// Size is how large a frame is, in CSS pixels; the zero value for as wide as there is room.
type Size struct{ Width, Height int }

// Beside its picture of 16 by 9 a frame has a line with the title above and one with the controls below.
const lines = 78

// of is a frame with a picture of a width.
func of(width int) Size { return Size{width, width*9/16 + lines} }

// Usual are the sizes that are offered: as wide as there is room, and three that are fixed.
var Usual = []Size{{}, of(480), of(640), of(960)}

// Within is the largest size that a page has room for, the usual one where it does not say. It is never smaller than a
// player can be used in.
func Within(width, height int) Size {
	const most, least = 1920, 320
	if width <= 0 {
		width = 640
		if height > 0 {
			width = most
		}
	}
	if height > 0 {
		width = min(width, (height-lines)*16/9)
	}
	return of(min(max(width, least), most))
}

// Code is what stands in a page that shows an address (HTML, 4.8.5).
func Code(address string, s Size) string {
	shape := `style="width:100%;aspect-ratio:3/2;border:0"`
	if s != (Size{}) {
		shape = fmt.Sprintf(`width="%d" height="%d" style="border:0"`, s.Width, s.Height)
	}
	return fmt.Sprintf(`<iframe src="%s" title="Late Lantern" %s allow="fullscreen; picture-in-picture" `+
		`loading="lazy" allowfullscreen></iframe>`, html.EscapeString(address), shape)
}
