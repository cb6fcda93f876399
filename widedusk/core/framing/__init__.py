"""The picture on the sky: where a frame lies, what it holds, how panels cover more than one."""
