package accounts

// A Member is somebody on a class's staff.
type Member struct{ Account, Name, Role string }
