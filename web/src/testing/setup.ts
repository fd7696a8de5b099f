import "./page";
import { cleanup } from "@testing-library/react";
import { afterEach, beforeEach } from "vitest";
import { forget } from "./standInServer";

beforeEach(forget);
afterEach(cleanup);
