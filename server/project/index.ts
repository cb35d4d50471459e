// The project being worked on, and what it says of the board.
export { OpenProject } from './open-project.ts';
export { currentProbes, currentProject, short, usableBuild } from './subject.ts';
export { importedProject, newProject } from './new-project.ts';
