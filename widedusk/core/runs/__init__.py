"""One run from plan to picture: what the plan, the phone, the files and the user say of it, and which frames are its own."""
