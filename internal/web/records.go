package web

import (
	"bytes"
	"context"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"github.com/skip2/go-qrcode"

	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
)

// GetLog implements the route of that name.
func (s *registerRoutes) GetLog(ctx context.Context, r api.GetLogRequestObject) (api.GetLogResponseObject, error) {
	out, err := s.log(ctx, r.ClassId, r.Params.Find, r.Params.Before)
	return api.GetLog200JSONResponse(out), err
}

// GetSchoolLog implements the route of that name.
func (s *registerRoutes) GetSchoolLog(ctx context.Context, r api.GetSchoolLogRequestObject) (api.GetSchoolLogResponseObject, error) {
	out, err := s.log(ctx, "", r.Params.Find, r.Params.Before)
	return api.GetSchoolLog200JSONResponse(out), err
}

// log is a page of a class's log, or of the school's where class is empty.
func (s *registerRoutes) log(ctx context.Context, class string, find *string, before *int64) (api.Log, error) {
	lines, more, err := s.registers.LogPage(ctx, class, deref(find), deref(before))
	out := api.Log{Lines: []api.LogLine{}, More: more}
	for _, l := range lines {
		out.Lines = append(out.Lines, api.LogLine{N: l.N, At: l.At.UTC(), Who: l.Who, Act: l.Act, Text: l.Text,
			Handout: orNone(l.Handout), Row: orNone(l.Row)})
	}
	return out, err
}

// GetLedger implements the route of that name.
func (s *registerRoutes) GetLedger(ctx context.Context, r api.GetLedgerRequestObject) (api.GetLedgerResponseObject, error) {
	from := 0
	if r.Params.From != nil {
		from = *r.Params.From
	}
	lines, more, err := s.registers.LedgerPage(ctx, r.ClassId, deref(r.Params.Find), from)
	out := api.GetLedger200JSONResponse{Lines: []api.LedgerLine{}, More: more}
	for _, l := range lines {
		v := api.LedgerLine{Id: l.ID, Name: l.Name, Purpose: string(l.Key.What.Purpose), Student: l.Student,
			Thing: l.Thing,
			Link:  l.Link, Run: l.RunID, MadeAt: l.MadeAt, SharedAt: moment(l.SharedAt), EndedAt: moment(l.EndedAt), Grants: []api.LedgerGrant{}}
		if l.Here {
			v.Row = &l.Key.Whom.Row
		}
		for _, g := range l.Grants {
			v.Grants = append(v.Grants, api.LedgerGrant{Name: g.Name, Level: g.Level.String(), At: g.At.UTC()})
		}
		out.Lines = append(out.Lines, v)
	}
	return out, err
}

// ListPastRuns implements the route of that name.
func (s *packRoutes) ListPastRuns(ctx context.Context, r api.ListPastRunsRequestObject) (api.ListPastRunsResponseObject, error) {
	runs, err := s.registers.PastRuns(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	out, err := s.runViews(ctx, runs)
	return api.ListPastRuns200JSONResponse(out), err
}

// export writes a table of the route's class in a format as a file to keep.
func (s *desk) export(ctx context.Context, format, what string, rows func(picture.Class) ([][]string, error)) (exported, error) {
	c, err := s.class(ctx)
	if err != nil {
		return exported{}, err
	}
	return asFile(ctx, format, c.Name, what, func() ([][]string, error) { return rows(c) })
}

// asFile writes a table in a format as a file to keep, called by whose and what it is.
func asFile(ctx context.Context, format, whose, what string, rows func() ([][]string, error)) (exported, error) {
	as := tables.Writing(format)
	if !slices.Contains([]tables.Writing{tables.CSV, tables.XLSX, tables.ODS}, as) {
		return exported{}, seam.ErrNotFound
	}
	table, err := rows()
	if err != nil {
		return exported{}, err
	}
	var b bytes.Buffer
	if err := tables.Write(&b, as, whose, table); err != nil {
		return exported{}, err
	}
	asGin(ctx).Header("Content-Disposition", disposition(whose+" – "+what+"."+string(as)))
	return exported{b.Bytes(), as.MediaType()}, nil
}

// ExportLog implements the route of that name.
func (s *registerRoutes) ExportLog(ctx context.Context, r api.ExportLogRequestObject) (api.ExportLogResponseObject, error) {
	return s.export(ctx, r.Format, "log", func(c picture.Class) ([][]string, error) {
		return s.registers.ExportLog(ctx, c.ID, deref(r.Params.Find))
	})
}

// ExportSchoolLog implements the route of that name.
func (s *registerRoutes) ExportSchoolLog(ctx context.Context, r api.ExportSchoolLogRequestObject) (api.ExportSchoolLogResponseObject,
	error) {
	return asFile(ctx, r.Format, s.registers.School().Name, "log", func() ([][]string, error) {
		return s.registers.ExportLog(ctx, "", deref(r.Params.Find))
	})
}

// ExportLedger implements the route of that name.
func (s *registerRoutes) ExportLedger(ctx context.Context, r api.ExportLedgerRequestObject) (api.ExportLedgerResponseObject, error) {
	return s.export(ctx, r.Format, "ledger", func(c picture.Class) ([][]string, error) {
		return s.registers.ExportLedger(ctx, c.ID, deref(r.Params.Find), s.site(ctx))
	})
}

// ExportRegister implements the route of that name.
func (s *registerRoutes) ExportRegister(ctx context.Context, r api.ExportRegisterRequestObject) (api.ExportRegisterResponseObject, error) {
	return s.export(ctx, r.Format, "Register", func(c picture.Class) ([][]string, error) {
		return s.registers.ExportRegister(ctx, c.ID, r.Body.Rows, s.site(ctx))
	})
}

// ExportLinks implements the route of that name.
func (s *registerRoutes) ExportLinks(ctx context.Context, r api.ExportLinksRequestObject) (api.ExportLinksResponseObject, error) {
	return s.export(ctx, r.Format, "links", func(c picture.Class) ([][]string, error) {
		return s.registers.ExportLinks(ctx, c.ID, deref(r.Params.Handout), s.site(ctx))
	})
}

// site is the address that links begin with: what the school's settings say, else the one
// under which it is asked now.
func (s *desk) site(ctx context.Context) string {
	if is := s.School(); is.SiteSaid {
		return is.Site
	}
	return s.base(ctx)
}

// base is the address under which the application is asked, without a path. The
// name in it is one it serves.
func (s *desk) base(ctx context.Context) string {
	c := asGin(ctx)
	u := url.URL{Scheme: "http", Host: c.Request.Host}
	if s.secure(c) {
		u.Scheme = "https"
	}
	return u.String()
}

// GetLinks implements the route of that name.
func (s *registerRoutes) GetLinks(ctx context.Context, r api.GetLinksRequestObject) (api.GetLinksResponseObject, error) {
	handout := deref(r.Params.Handout)
	links, err := s.registers.Links(ctx, r.ClassId, handout)
	if err != nil {
		return nil, err
	}
	cues, err := s.rooms.Cues(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	base := s.site(ctx)
	out := api.GetLinks200JSONResponse{Door: base + "/door/" + r.ClassId, Links: []api.ThingLink{}}
	if handout != "" {
		out.Door += "/" + handout
	}
	for _, l := range links {
		v := api.ThingLink{Row: l.Row, Student: l.Student, Address: l.Address, Name: l.Name, Place: l.Place,
			Link: base + "/go/" + l.Link, Cue: cueView(cues[l.Row])}
		if r.Params.Codes != nil && *r.Params.Codes && l.Row != "" {
			code, size, err := codeOf(v.Link)
			if err != nil {
				return nil, err
			}
			v.Code, v.Size = &code, &size
		}
		out.Links = append(out.Links, v)
	}
	return out, nil
}

// codeOf draws a code to scan (ISO/IEC 18004) as the outline of its dark squares,
// each of 1, with the quiet zone around it; size is that of the whole.
func codeOf(text string) (outline string, size int, err error) {
	q, err := qrcode.New(text, qrcode.Medium)
	if err != nil {
		return "", 0, err
	}
	var b strings.Builder
	rows := q.Bitmap()
	for y, row := range rows {
		for x := 0; x < len(row); x++ {
			from := x
			for x < len(row) && row[x] {
				x++
			}
			if x > from {
				fmt.Fprintf(&b, "M%d %dh%dv1h-%dz", from, y, x-from, x-from)
			}
		}
	}
	return b.String(), len(rows), nil
}

// FrontDoor implements the route of that name.
func (s *registerRoutes) FrontDoor(ctx context.Context, r api.FrontDoorRequestObject) (api.FrontDoorResponseObject, error) {
	thing, staff, err := s.registers.FrontDoor(ctx, account(ctx), r.ClassId, deref(r.Params.Handout))
	if err != nil {
		return nil, err
	}
	return api.FrontDoor200JSONResponse(api.Door{Thing: orNone(thing), Staff: staff}), nil
}

// mostSamples of what would be made are named for each class.
const mostSamples = 4
