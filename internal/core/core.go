// Package core holds the rules of the job, one package each: who is on the
// list (roster), what things are called (naming), what a class's room and a
// handout ask for (room, handout), what is to be done (packing), who may do
// what (access) and how far work has come (progress). They are pure functions:
// no files, network, database, clock or chance.
package core
