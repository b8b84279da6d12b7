package web

import (
	"context"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/desk"
)

// A need says who may use a route. What a signed-in person may do with a
// single thing is the cupboard's to say.
type need int

const (
	anybody    need = iota // also without signing in
	signedIn               // any account of the school
	schoolWork             // staff and office
	classOpen              // the class's staff, and the office
	classStaff             // the class's staff
	classHands             // the class's owner and co-teachers
	studentOwn             // students
	standIns               // the office, where the shipped stand-ins are shown
	postRoom               // the office, while the stand-in for mail takes the school's
	officeOnly             // the office
)

// needs lists every route by its operation. One that is missing is refused.
var needs = map[string]need{
	"SignIn": anybody, "SignOut": anybody, "DemoPeople": anybody, "DemoSignIn": anybody,
	"GetSignIn": anybody, "GoToService": anybody, "ComeFromService": anybody,
	"GetMe": signedIn, "ListFolders": signedIn, "MakeFolder": signedIn, "GetInside": signedIn, "RenameThing": signedIn,
	"PreviewWidening": signedIn, "OpenToSchool": signedIn, "MoveThings": signedIn, "PreviewSpread": signedIn,
	"SpreadThings": signedIn, "MoveEffects": signedIn, "ListBin": signedIn, "BinThings": signedIn,
	"RestoreThing": signedIn, "FrontDoor": signedIn, "FollowLink": signedIn, "GetThing": signedIn, "GetText": signedIn, "PutText": signedIn,
	"GetCalendar": signedIn, "GetClassCalendar": classOpen, "GetLate": signedIn, "SettleLate": signedIn,
	"GetShown": signedIn, "ShowDraft": signedIn, "LookedAtDraft": signedIn, "ShowAll": classHands,
	"GetContent": signedIn, "ListVersions": signedIn, "AddFile": signedIn, "Render": signedIn,
	"GetHome": signedIn, "ListMatesCopies": studentOwn, "LetIn": studentOwn,
	"GetFirst": anybody, "Begin": anybody, "FirstSignIn": anybody, "ChangePassword": signedIn,
	"GetSchool": schoolWork, "ChangeSchool": officeOnly, "ListBook": schoolWork, "ListBookIds": officeOnly,
	"GetSchoolLog": officeOnly, "ExportSchoolLog": officeOnly, "AddAccount": officeOnly,
	"ChangeAccount": officeOnly, "GiveCodes": officeOnly, "PreviewBookList": officeOnly, "BringBookList": officeOnly,
	"ClassCodes": classHands, "SetStaff": classHands, "HandOver": classOpen,
	"GetStandins": standIns, "SetWeather": standIns, "ListPostroom": postRoom, "SetPostWeather": standIns,
	"GetMail": postRoom, "GetEML": postRoom,
	"PreviewTerm": officeOnly, "BringTerm": officeOnly,
	"GetJoinDoor": classStaff, "OpenJoinDoor": classHands, "TakeAskers": classHands, "GetJoin": signedIn, "AskToJoin": studentOwn,
	"ListAllClasses": officeOnly, "JoinClass": classOpen, "PutOff": classOpen, "ShowAgain": schoolWork,
	"ListSessions": signedIn, "EndSession": signedIn, "GetEyes": classStaff,
	"ListOwnCodes": signedIn, "GetPlacing": classOpen, "PlaceClass": classOpen, "GetWish": signedIn, "SetWish": signedIn,
	"TryPost": officeOnly, "ListMessages": classStaff, "PreviewMessage": classHands, "SendMessage": classHands, "SendAgain": classHands,
	"Events": schoolWork, "ListClasses": schoolWork, "CreateClass": schoolWork, "ChangeClass": classHands,
	"Choose": schoolWork, "FindPeople": schoolWork, "CoverNames": schoolWork, "MakePractice": schoolWork,
	"GetEverywhere": schoolWork, "PackEverywhere": schoolWork, "ListTemplates": schoolWork, "UploadTemplate": schoolWork,
	"WriteTemplate": schoolWork, "RenameTemplate": schoolWork, "RemoveTemplate": schoolWork,
	"GetClass": classOpen, "GetRoster": classOpen, "GetRegister": classOpen, "GetWeeks": classStaff,
	"ListWeeks": schoolWork, "FindStudents": schoolWork,
	"GetLog": classOpen, "ExportLog": classOpen, "GetLedger": classStaff, "ExportLedger": classStaff,
	"ListPastRuns": classStaff, "GetLinks": classStaff, "ExportLinks": classStaff, "ExportRegister": classStaff,
	"ListDoorChecks": officeOnly, "GetReachEverywhere": officeOnly, "ExportReachEverywhere": officeOnly,
	"GetDoors": classOpen, "CheckDoors": classOpen, "ExportDoors": classOpen, "MendDoors": classHands,
	"LeaveDoors": classHands, "GetReach": classStaff, "ExportReach": classStaff, "ListDoorThings": classStaff,
	"ListLeavers": classOpen, "PreviewHanding": classHands, "HandToStudents": classHands,
	"GetPanel": classStaff, "GetTree": classStaff, "PreviewReissue": classStaff, "PreviewFilling": classStaff,
	"GetFilled": classStaff, "PreviewWithdraw": classStaff, "GetUsage": classStaff, "GetHandoutFile": classStaff,
	"GetRoomFile": classStaff, "ListLeftovers": classStaff, "GetBack": classStaff, "GetRoom": classStaff,
	"ListHandouts": classStaff, "ListHeadings": classStaff, "ListStood": classStaff, "GetStood": classStaff,
	"GetHandout": classStaff, "ListRuns": classStaff, "ListMissing": classStaff, "GetRun": classStaff,
	"GetDraft": classHands, "PasteDraft": classHands, "UploadDraft": classHands, "ChangeDraft": classHands,
	"DropDraft": classHands, "AcceptDraft": classHands,
	"AddStudents": classHands, "EditRoster": classHands, "SetLeft": classHands, "DealTeams": classStaff,
	"ExportRoster": classOpen, "RosterHistory": classOpen,
	"UndoRoster": classHands, "ListBefore": classHands, "ClearPractice": classHands, "RemoveClass": classHands,
	"RenameTeam": classHands, "ConfirmAccount": classHands,
	"DecideLeaver": classHands, "ArchiveLeaver": classHands, "DecideFormer": classHands, "AnswerRequest": classOpen,
	"SetCue": classHands, "DealCues": classHands, "ReadRoomFile": classHands, "ReadHandoutFile": classHands,
	"LeaveAsIs": classHands, "BinLeftover": classHands, "TakeBack": classHands,
	"SetAddress": classHands, "ChangeRoom": classHands, "PackRoom": classHands, "CreateHandout": classHands, "ChangeHandout": classHands,
	"DeleteHandout": classHands, "PackHandout": classHands, "AlsoFor": classHands, "NotFor": classHands,
	"PackTogether": classHands, "AddHeading": classHands, "ChangeHeading": classHands, "RemoveHeading": classHands,
	"SayPens": classHands, "SayPlacePens": classHands, "GiveExtraTime": classHands, "OpenLater": classHands, "OpenClass": classHands,
	"PlaceHandout": classHands, "Reissue": classHands, "PostNotice": classHands, "TakeNoticeDown": classHands,
	"UseAgain": classHands, "Withdraw": classHands, "BringBack": classHands, "TopUp": classHands, "PauseRun": classHands,
	"ResumeRun": classHands, "StopRun": classHands, "FixLine": classHands,
}

const bodyKey = "body" // digest of the body

// route does what every route of the contract asks for before its own work: who
// is there, whether they may, and whether what is sent is what the contract says.
func (s *Server) route(c *gin.Context) {
	op, known := s.contract[c.Request.Method+" "+c.FullPath()]
	if !known {
		return
	}
	c.Header("Cache-Control", "no-store")
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, op.most)
	leave := func() {}
	defer func() { leave() }()
	if err := s.through(c, op, &leave); err != nil {
		s.refuse(c, err)
		return
	}
	c.Next()
}

// through lets a request in, or says why not; leave is called when it is done.
func (s *Server) through(c *gin.Context, op operation, leave *func()) error {
	if err := s.foreign.Check(c.Request); err != nil {
		return errForeign
	}
	if err := s.session(c, op.name, s.weight(c, op)); err != nil {
		return err
	}
	a, err := s.asWho(c, op.name, s.weight(c, op))
	if err != nil {
		return err
	}
	if err := checkParams(c, op, "path"); err != nil {
		return err
	}
	if err := s.guard(c, a, op.name); err != nil {
		return err
	}
	large := op.most > mostJSON && (op.form || c.Request.ContentLength > mostJSON || c.Request.ContentLength < 0)
	if large {
		done, ok := s.uploads.Enter(c.GetString(desk.AccountKey))
		if !ok {
			return errUploads
		}
		*leave = done
	}
	if large && op.inMemory {
		read, err := s.bodies.Enter(c.Request.Context())
		if err != nil {
			return err
		}
		if done := *leave; op.form {
			*leave = func() { read(); done() }
		} else {
			defer read() // it is read here
		}
	}
	if err := s.checked(c, op); err != nil {
		return err
	}
	if key := c.GetHeader("Idempotency-Key"); key != "" && c.Request.Method != http.MethodGet {
		c.Set(desk.KeyKey, key)
		c.Set(desk.ContentKey, op.name+" "+c.Request.URL.Path+" "+c.Request.URL.RawQuery+" "+c.GetString(bodyKey))
		c.Request = c.Request.WithContext(desk.About(c, nil))
	}
	return nil
}

// session loads who is signed in. It doesn't wrap the answer: events need to
// be flushed as they come.
func (s *Server) session(c *gin.Context, name string, weight int) error {
	token := ""
	if k, err := c.Request.Cookie(s.Sessions.Cookie.Name); err == nil && len(k.Value) < 200 {
		token = k.Value
	}
	nobody := func() bool { return name != "SignIn" && !s.origins.allowN(origin(c), weight) } // signing in counts by itself
	if token == "" && nobody() {
		return desk.ErrPace
	}
	ctx, err := s.Sessions.Load(c.Request.Context(), token)
	if err != nil {
		return err
	}
	if token != "" && s.Sessions.GetString(ctx, desk.AccountKey) == "" && nobody() { // a cookie that is nobody's
		return desk.ErrPace
	}
	c.Request = c.Request.WithContext(ctx)
	return nil
}

// weigh is how many bytes of a body count as one request: reading and checking them takes as
// much.
const weigh = 16 << 10

// weight is as how many requests one counts: those with a long body as several, before it is
// read. Files are counted where they are taken.
func (s *Server) weight(c *gin.Context, op operation) int {
	if op.body == nil {
		return 1
	}
	n := c.Request.ContentLength
	if n < 0 {
		n = op.most
	}
	return min(1+int(n/weigh), max(1, s.pace.burst/2))
}

// asWho returns who is there, for a route that isn't open to anybody. The account
// is the school book's of this moment: anyone who is no longer in it is nobody.
func (s *Server) asWho(c *gin.Context, name string, weight int) (accounts.Account, error) {
	n, listed := needs[name]
	if !listed {
		return accounts.Account{}, seam.ErrNotFound
	}
	if n == anybody {
		return accounts.Account{}, nil
	}
	a, err := s.signedIn(c.Request.Context())
	if err != nil {
		return a, err
	}
	if !s.pace.allowN(a.ID, weight) {
		return a, desk.ErrPace
	}
	c.Set(desk.AccountKey, a.ID)
	c.Set(desk.RoleKey, a.Role)
	return a, nil
}

// guard asks on every route whether anyone who is there may use it.
func (s *Server) guard(c *gin.Context, a accounts.Account, name string) error {
	n, role := needs[name], a.Role
	switch {
	case n == standIns && (role != accounts.Office || s.options.Standins == nil),
		n == postRoom && (role != accounts.Office || !s.Postroomed()),
		n == officeOnly && role != accounts.Office,
		n == studentOwn && role != accounts.Student,
		n >= schoolWork && n <= classHands && role == accounts.Student:
		return seam.ErrNotFound
	case n >= classOpen && n <= classHands:
		return s.enterClass(c, a.ID, role, n)
	}
	return nil
}

// signedIn returns the account of a loaded session as the school book has it now,
// or had it a moment ago.
func (s *peopleRoutes) signedIn(ctx context.Context) (accounts.Account, error) {
	id := s.Sessions.GetString(ctx, desk.AccountKey)
	if id == "" {
		return accounts.Account{}, errSignIn
	}
	if a, ok := s.lately.get(id); ok {
		return a, nil
	}
	found, err := s.people.Accounts(ctx, id)
	if err != nil {
		return accounts.Account{}, err
	}
	a, ok := found[id]
	if !ok || a.Off {
		return a, errSignIn
	}
	s.lately.put(a)
	return a, nil
}

// lately is how long an account is taken for what it was.
const lately = 2 * time.Second

// recentAccounts remember accounts for a moment.
type recentAccounts struct {
	mu    sync.Mutex
	known map[string]accounts.Account
	since time.Time // nothing is remembered from before
}

func (k *recentAccounts) get(id string) (accounts.Account, bool) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if time.Since(k.since) > lately {
		k.known, k.since = map[string]accounts.Account{}, time.Now()
	}
	a, ok := k.known[id]
	return a, ok
}

// forget has all be asked for again.
func (k *recentAccounts) forget() {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.known = map[string]accounts.Account{}
}

func (k *recentAccounts) put(a accounts.Account) {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.known[a.ID] = a
}

// enterClass finds what the account is in the route's class. Anyone who has no
// business there gets the same answer as for a class that doesn't exist.
func (s *Server) enterClass(c *gin.Context, account string, role accounts.Role, n need) error {
	id := c.Param("classId")
	mine, err := s.Desk.Classes.Standing(c, id, account)
	switch {
	case err != nil:
		return err
	case mine == "" && role == accounts.Office && n == classOpen:
		mine = string(accounts.Office)
	case mine == "", mine == classes.Assistant && n == classHands:
		return seam.ErrNotFound
	}
	c.Set(desk.ClassKey, id)
	c.Set(desk.MineKey, mine)
	return nil
}
